// A session that has ended while somebody was at work: whoever signs in again goes on where they were. Calls that meet it wait for that, together.
import { ref } from 'vue'

export const expired = ref(false)
let waiting: Promise<void> | null = null
let goOn: () => void = () => {}

// signedInAgain waits until somebody has signed in.
export function signedInAgain(): Promise<void> {
  waiting ??= new Promise((resolve) => {
    goOn = resolve
    expired.value = true
  })
  return waiting
}

// resume lets the calls go on that wait.
export function resume() {
  expired.value = false
  waiting = null
  goOn()
}
