package source

// Nearest returns the known word that a misspelt word most likely means, or "" when none is near.
func Nearest(word string, known []string) string {
	best, least := "", max(2, len(word)/3)+1
	for _, k := range known {
		if d := distance([]rune(word), []rune(k)); d < least {
			best, least = k, d
		}
	}
	return best
}

// distance is the number of single letters to add, drop or change that make a into b.
func distance(a, b []rune) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range a {
		diagonal := row[0]
		row[0] = i + 1
		for j := range b {
			cost := 1
			if a[i] == b[j] {
				cost = 0
			}
			diagonal, row[j+1] = row[j+1], min(row[j+1]+1, row[j]+1, diagonal+cost)
		}
	}
	return row[len(b)]
}

// DidYouMean is the end of a message about a misspelt word: `; did you mean "string"?`, or "".
func DidYouMean(word string, known []string) string {
	if near := Nearest(word, known); near != "" {
		return `; did you mean "` + near + `"?`
	}
	return ""
}
