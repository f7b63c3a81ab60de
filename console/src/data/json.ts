// JSON as it is, and what somebody says in a notice; "" is nothing.
export type Json = string | number | boolean | null | Json[] | { [name: string]: Json }
export type JsonObject = { [name: string]: Json }

export interface NoticeWords extends Record<string, string> {
  sunset: string
  replacedBy: string
  reason: string
  guide: string
  sooner: string
}
