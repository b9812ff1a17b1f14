package claimtest

import (
	"fmt"
	"strings"
)

// reply writes a reply that states what is asked of a question.
func (q question) reply() (made, text string) {
	switch {
	case !q.named:
		made, text = q.oneNumber()
	case q.asked == 1 && q.valued:
		made, text = q.firstWithNumber()
	case !q.valued:
		made, text = q.first()
	default:
		made, text = q.rows()
	}
	if q.IntN(3) == 0 {
		text = pick(q.drawing, "Sure! ", "Here is what I found. ", "Let me see. ", "I looked at the data and grouped the rows. ",
			"Based on the sample, ",
			"**Answer:** ", "According to the tables, ") + text
	}
	if q.IntN(3) == 0 {
		if last := text[len(text)-1]; last != '.' && last != '|' {
			text += "."
		}
		text += pick(q.drawing, " Let me know if you need more detail.", " I hope this helps!",
			"\n\nWould you like to see this as a chart?",
			" All figures are as of 30 June 2031.", "\n\n(Source: the tables of the sample.)", " Cancelled entries are included.")
	}
	return made, text
}

func (q question) oneNumber() (string, string) {
	x := q.values[0]
	n := q.said(x)
	switch {
	case !q.lie && q.IntN(4) == 0 && !q.share && x > 20000:
		return "thousands", fmt.Sprintf(pick(q.drawing, "About %s thousand %s.", "Roughly %sk %s.", "It is around %s thousand %s."),
			q.style.number(x/1000, 1), q.noun)
	case q.IntN(4) == 0 && q.share:
		whole := 10000.0
		return "share with counts", fmt.Sprintf(pick(q.drawing, "%s (%s of %s).", "%s, that is %s out of %s."), n, q.style.number(x*whole,
			0),
			q.style.number(whole, 0))
	}
	return "sentence", fmt.Sprintf(pick(q.drawing, "There were %s.", "%s", "It is %s.", "The answer is %s.",
		"The figure comes to **%s**.", "Result: %s",
		"In total, %s.", "I count %s.", "That makes %s overall."), n)
}

func (q question) firstWithNumber() (string, string) {
	a, b, x, y := q.names[0], q.names[1], q.said(q.values[0]), q.said(q.values[1])
	switch q.IntN(6) {
	case 0:
		return "with the next", fmt.Sprintf(pick(q.drawing, "%[1]s with %[3]s, ahead of %[2]s (%[4]s).",
			"%[1]s has the highest figure: %[3]s, followed by %[2]s with %[4]s.",
			"%[1]s leads with %[3]s; %[2]s follows with %[4]s.", "With %[3]s, %[1]s is first. Second is %[2]s with %[4]s.",
			"While %[2]s has %[4]s, %[1]s has %[3]s and is first."), a, b, x, y)
	case 1:
		return "two sentences", fmt.Sprintf(pick(q.drawing, "It is %[1]s. The figure is %[2]s.", "%[1]s comes first. It reaches %[2]s."),
			a, x)
	case 2:
		return "with the total", fmt.Sprintf(pick(q.drawing, "%[1]s has the most: %[2]s, out of %[3]s in total.",
			"%[1]s with %[2]s (all together: %[3]s)."), a, x,
			q.said(q.total(len(q.values))))
	case 3:
		return "pairs", fmt.Sprintf(pick(q.drawing, "%s: %s", "**%s** – %s", "%s (%s)", "%s | %s"), a, x)
	}
	return "sentence", fmt.Sprintf(pick(q.drawing, "%[1]s has the highest figure, %[2]s.", "The top %[3]s is %[1]s with %[2]s.",
		"With %[2]s, %[1]s comes out on top.",
		"That would be %[1]s at %[2]s.", "%[2]s, by %[1]s."), a, x, q.singular)
}

func (q question) first() (string, string) {
	a, b := q.names[0], q.names[1]
	switch q.IntN(3) {
	case 0:
		return "with the next", fmt.Sprintf(pick(q.drawing, "%[1]s, followed by %[2]s.", "%[1]s, just ahead of %[2]s.",
			"%[1]s is first and %[2]s second.",
			"%[1]s, not %[2]s.", "%[1]s leads; %[2]s comes next."), a, b)
	case 1:
		return "with its number", fmt.Sprintf(pick(q.drawing, "%s, with %s.", "It is %s (%s).", "%s has the highest figure: %s."), a,
			q.said(q.values[0]))
	}
	return "name", fmt.Sprintf(pick(q.drawing, "%[1]s.", "It is %[1]s.", "The %[2]s with the highest figure is %[1]s.", "**%[1]s**",
		"That would be %[1]s."), a, q.singular)
}

// rows writes several rows: as a list, a table, lines, or a sentence.
func (q question) rows() (string, string) {
	var parts []string
	n := q.asked
	form := pick(q.drawing, "list", "numbered", "lines", "table", "sentence", "brackets", "number first", "respectively")
	for i := range n {
		name, x := q.names[i], q.said(q.values[i])
		switch form {
		case "list":
			parts = append(parts, "- "+name+": "+x)
		case "numbered":
			parts = append(parts, fmt.Sprintf("%d. %s – %s", i+1, name, x))
		case "lines":
			parts = append(parts, name+": "+q.bare(q.values[i]))
		case "table":
			parts = append(parts, "| "+name+" | "+q.bare(q.values[i])+" |")
		case "brackets":
			parts = append(parts, name+" ("+x+")")
		case "number first":
			parts = append(parts, x+" "+pick(q.drawing, "for", "in", "from")+" "+name)
		case "respectively":
			parts = append(parts, q.bare(q.values[i]))
		default:
			if q.IntN(2) == 0 && i > 0 {
				x = q.bare(q.values[i])
			}
			parts = append(parts, name+" "+pick(q.drawing, "has", "had", "with", "reaches", "comes to")+" "+x)
		}
	}
	total := ""
	if q.IntN(2) == 0 && !q.share {
		total = pick(q.drawing, "In total: ", "Altogether that is ", "The sum is ") + q.said(q.total(n)) + "."
	}
	return form, q.assembled(form, parts, total)
}

func (q question) assembled(form string, parts []string, total string) string {
	switch form {
	case "list", "numbered", "lines":
		lead := pick(q.drawing, "", "Here are the figures:\n\n", "By "+q.singular+":\n")
		if total != "" {
			total = "\n\n" + total
		}
		return "\n" + lead + strings.Join(parts, "\n") + total
	case "table":
		return "\n\n| " + q.singular + " | " + q.column + " |\n|---|---|\n" + strings.Join(parts, "\n") + "\n\n" + total
	case "respectively":
		return joined(q.names[:q.asked]) + " have " + joined(parts) + ", respectively. " + total
	}
	return joined(parts) + ". " + total
}

// joined lists parts in a sentence.
func joined(parts []string) string {
	if len(parts) == 1 {
		return parts[0]
	}
	return strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1]
}
