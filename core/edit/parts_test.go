package edit

func init() { least = 0 } // the tests read parts of short texts, too, and then the whole
