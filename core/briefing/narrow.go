package briefing

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
)

// DefaultMost is how many tables are told to a question at most where nothing is said.
const DefaultMost = 60

// Narrow is what is told of a dataset to one question, at most so many tables (0 for all), and the names of those that are left out: the
// tables stay whose names, columns and synonyms share most words with what is asked, and those that join two of them. The tables keep
// their order.
func Narrow(told Dataset, asked string, most int) (Dataset, []string) {
	if most <= 0 || len(told.Tables) <= most {
		return told, nil
	}
	wanted := wordsIn(asked)
	weights := rarity(told.Tables)
	scores := make([]float64, len(told.Tables))
	for i, t := range told.Tables {
		for word := range wordsOfTable(t) {
			if wanted[word] {
				scores[i] += weights[word]
			}
		}
	}
	joined := slices.Clone(scores)
	for i, t := range told.Tables { // what joins tables that are asked for is needed too
		best := 0.0
		for k, other := range told.Tables {
			if i != k && scores[k] > best && joins(t, other) {
				best = scores[k]
			}
		}
		joined[i] += best / 2
	}
	order := make([]int, len(told.Tables))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(joined[b], joined[a]) })
	kept := slices.Sorted(slices.Values(order[:most]))
	out := told
	out.Tables = nil
	var left []string
	for i, t := range told.Tables {
		if _, is := slices.BinarySearch(kept, i); is {
			out.Tables = append(out.Tables, t)
		} else {
			left = append(left, t.Name)
		}
	}
	return out, left
}

// rarity weighs words by how few tables have them.
func rarity(tables []ToldTable) map[string]float64 {
	seen := map[string]float64{}
	for _, t := range tables {
		for word := range wordsOfTable(t) {
			seen[word]++
		}
	}
	for word, n := range seen {
		seen[word] = 1 / n
	}
	return seen
}

// wordsOfTable are the words of a table's names, of its columns' and of what is said of them.
func wordsOfTable(t ToldTable) map[string]bool {
	out := wordsIn(t.Name + " " + t.About)
	for _, c := range t.Columns {
		for word := range wordsIn(c.Name + " " + c.About + " " + strings.Join(c.Synonyms, " ")) {
			out[word] = true
		}
		for _, label := range c.Values {
			for word := range wordsIn(label) {
				out[word] = true
			}
		}
	}
	return out
}

// joins tells tables that share the name of a key.
func joins(a, b ToldTable) bool {
	keys := map[string]bool{}
	for _, c := range a.Columns {
		if name := strings.ToLower(c.Name); strings.HasSuffix(name, "id") || strings.HasSuffix(name, "_no") || strings.HasSuffix(name,
			"code") {
			keys[name] = name != "id"
		}
	}
	for _, c := range b.Columns {
		if keys[strings.ToLower(c.Name)] {
			return true
		}
	}
	return false
}

// shortest is how many letters a word has at least that says what is asked.
const shortest = 3

// wordsIn are the words of a text or a name, in lower case and without the s of a plural.
func wordsIn(text string) map[string]bool {
	out := map[string]bool{}
	for word := range strings.FieldsFuncSeq(splitCase(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		word = strings.ToLower(word)
		if len(word) < shortest {
			continue
		}
		if plain, is := strings.CutSuffix(word, "ies"); is {
			word = plain + "y"
		} else if len(word) > shortest {
			word = strings.TrimSuffix(word, "s")
		}
		out[word] = true
	}
	return out
}

// splitCase puts spaces into namesLikeThis.
func splitCase(text string) string {
	var b strings.Builder
	before := ' '
	for _, r := range text {
		if unicode.IsUpper(r) && unicode.IsLower(before) {
			b.WriteByte(' ')
		}
		b.WriteRune(r)
		before = r
	}
	return b.String()
}
