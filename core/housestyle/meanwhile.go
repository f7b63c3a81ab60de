package housestyle

import "sync"

// meanwhile begins something, and gives what waits for it. If it panics, whoever waits does: who answers for one, answers for both.
func meanwhile[T any](f func() T) func() T {
	type outcome struct {
		value    T
		panicked any
	}
	done := make(chan outcome, 1)
	go func() {
		var o outcome
		defer func() {
			o.panicked = recover()
			done <- o
		}()
		o.value = f()
	}()
	return sync.OnceValue(func() T {
		o := <-done
		if o.panicked != nil {
			panic(o.panicked)
		}
		return o.value
	})
}
