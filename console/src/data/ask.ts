// A question before something is done: with its reason where one is asked for.
export interface Question {
  title: string
  text: string
  yes: string
  reason?: boolean // whether it needs one
  act: (reason: string) => Promise<unknown>
}
