package source

import "strings"

// Nearest returns the known word that a misspelt word most likely means, or "" when none is near: it differs in case or dashes only, or in
// one letter, or in one of three.
func Nearest(word string, known []string) string {
	best, least := "", 1+max(1, len(word)/3)
	plain := []rune(bare(word))
	if len(word) < 3 || len(word) > maxWord {
		return ""
	}
	for _, k := range known {
		if k == word || len(k) > maxWord {
			continue
		}
		if d := distance(plain, []rune(bare(k))); d < least {
			best, least = k, d
		}
	}
	return best
}

// maxWord bounds the words that are held against each other.
const maxWord = 100

var dashes = strings.NewReplacer("-", "", "_", "")

// bare is a word in small letters without its dashes.
func bare(word string) string { return strings.ToLower(dashes.Replace(word)) }

// distance is the number of single letters to add, drop, change or swap with the next that make a into b.
func distance(a, b []rune) int {
	before, row := make([]int, len(b)+1), make([]int, len(b)+1)
	last := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range a {
		last, before, row = before, row, last
		row[0] = i + 1
		for j := range b {
			cost := 1
			if a[i] == b[j] {
				cost = 0
			}
			row[j+1] = min(before[j+1]+1, row[j]+1, before[j]+cost)
			if i > 0 && j > 0 && a[i] == b[j-1] && a[i-1] == b[j] {
				row[j+1] = min(row[j+1], last[j-1]+1)
			}
		}
	}
	return row[len(b)]
}

// Alike reports whether few letters are another in two words: two, or one of three.
func Alike(a, b string) bool {
	return a == b || len(a) <= maxWord && len(b) <= maxWord && distance([]rune(a), []rune(b)) <= max(2, len(a)/3)
}

// DidYouMean is the end of a message about a misspelt word: `; did you mean "string"?`, or "".
func DidYouMean(word string, known []string) string {
	if near := Nearest(word, known); near != "" {
		return `; did you mean "` + near + `"?`
	}
	return ""
}
