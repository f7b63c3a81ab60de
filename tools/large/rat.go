package large

import "math/big"

func rat(n int) *big.Rat { return big.NewRat(int64(n), 1) }
