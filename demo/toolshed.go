package demo

import (
	"fmt"
	"path/filepath"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// The toolshed dataset: a tool-lending library, smaller than the dairy and as messy as files by hand are, so that inspection has
// something to find. All of it is made up.
const (
	shedSeed    = 4411
	shedMembers = 48
	shedLoans   = 420
)

var toolCategories = []struct{ code, label string }{{"GAR", "Garden"}, {"WOO", "Woodwork"}, {"MET", "Metalwork"},
	{"PNT", "Painting"}, {"ELE", "Electrical"}}

var toolNames = []struct {
	name, category string
	cents          int
}{
	{"Hedge trimmer", "GAR", 8900}, {"Lawn aerator", "GAR", 12450}, {"Leaf blower", "GAR", 7990}, {"Chainsaw", "GAR", 21900},
	{"Wheelbarrow", "GAR", 6450},
	{"Circular saw", "WOO", 11900}, {"Router", "WOO", 15900}, {"Belt sander", "WOO", 9900}, {"Biscuit joiner", "WOO", 13900},
	{"Mitre saw", "WOO", 24900}, {"Plane", "WOO", 4900},
	{"Angle grinder", "MET", 8400}, {"Bench vice", "MET", 5900}, {"Welding set", "MET", 112500}, {"Pipe bender", "MET", 17900},
	{"Paint sprayer", "PNT", 13450}, {"Wallpaper steamer", "PNT", 4450}, {"Extension pole", "PNT", 1990},
	{"Cable finder", "ELE", 3990}, {"Multimeter", "ELE", 2950}, {"Soldering station", "ELE", 8950}, {"Crimping tool", "ELE", 2450},
}

var shedTowns = []string{"Alder Vale, 4411 NV", "Marsh Reach, 4420 MR", "Old Lock, 4433 OL", "High Barrow, 4450 HB"}

type toolshed struct {
	r                              random
	memberRows, loanRows, workRows strings.Builder
}

func makeToolshed() *toolshed {
	s := &toolshed{r: random{shedSeed}}
	s.makeMembers()
	s.makeLoans()
	s.makeRepairs()
	return s
}

// makeMembers writes what a volunteer typed: two facts in one column, three spellings of one plan, dates of which nothing tells
// day from month, one member entered twice.
func (s *toolshed) makeMembers() {
	s.memberRows.WriteString("member_id;name;home;plan;joined;phone\n")
	line := func(id int) string {
		plan := []string{"standard", "standard", "standard", "Standard", "standard ", "family", "family", "student"}[(id*5)%8]
		phone := fmt.Sprintf("0%d-%06d", 40+id%9, 100000+id*7919%900000)
		if id%6 == 0 {
			phone = "n/a"
		}
		name := firstNames[id*5%len(firstNames)] + " " +
			[]string{"Ashby", "Corrie", "Dunmore", "Ellery", "Farrow", "Garrick", "Holt"}[id*3%7]
		return fmt.Sprintf("%d;%s;%s;%s;%02d/%02d/%d;%s\n", id, name, shedTowns[id%4], plan, 1+id*7%12, 1+id*5%12, 2027+id%5, phone)
	}
	for id := 1; id <= shedMembers; id++ {
		s.memberRows.WriteString(line(id))
		if id == 17 {
			s.memberRows.WriteString(line(id)) // entered twice
		}
	}
}

// makeLoans lends tools over two and a half years. Some are not back yet, some were lent to members who have left, and a blank
// line stands where a page ended.
func (s *toolshed) makeLoans() {
	s.loanRows.WriteString("loan_id,tool_no,member_id,out_on,due_on,back_on,fee_eur,desk\n")
	start := day("2029-01-02")
	for i := 1; i <= shedLoans; i++ {
		out := start.AddDate(0, 0, i*905/shedLoans+s.r.below(3))
		due := out.AddDate(0, 0, 7)
		back := out.AddDate(0, 0, s.r.between(1, 11)).Format("2006-01-02")
		if i > shedLoans-9 && i%2 == 0 {
			back = ""
		}
		tool := 1 + s.r.below(len(toolNames)-2) // the last two are never lent
		member := 1 + s.r.below(shedMembers-3)
		if s.r.chance(20) {
			member = 90 + s.r.below(3)
		}
		fee := toolNames[tool-1].cents / 100 * s.r.between(2, 4)
		fmt.Fprintf(&s.loanRows, "%d,%03d,%d,%s,%s,%s,%s,main\n", i, tool, member, out.Format("2006-01-02"),
			due.Format("2006-01-02"), back, cents(int64(fee)))
		if i%140 == 0 {
			s.loanRows.WriteString("\n")
		}
	}
}

// makeRepairs ends with a row of totals, as a spreadsheet exports it.
func (s *toolshed) makeRepairs() {
	s.workRows.WriteString("repair_id,tool_no,done_on,minutes,cost,workshop\n")
	total, spent := int64(0), 0
	for i := 1; i <= 36; i++ {
		tool := 1 + s.r.below(len(toolNames))
		cost := int64(s.r.between(600, 9000))
		if i%12 == 0 {
			cost += 120000
		}
		minutes := s.r.between(10, 180)
		total, spent = total+cost, spent+minutes
		fmt.Fprintf(&s.workRows, "%d,%03d,%s,%d,\"%s\",%s\n", i, tool,
			day("2029-02-01").AddDate(0, 0, i*24).Format("2006-01-02"), minutes, thousands(cost),
			[]string{"own", "own", "Barrow Works"}[i%3])
	}
	fmt.Fprintf(&s.workRows, ",,,%d,\"%s\",Total\n", spent, thousands(total))
}

// thousands writes cents with separators, as 1,250.00.
func thousands(c int64) string {
	whole, frac, _ := strings.Cut(cents(c), ".")
	for at := len(whole) - 3; at > 0; at -= 3 {
		whole = whole[:at] + "," + whole[at:]
	}
	return whole + "." + frac
}

// writeTools writes the inventory as a spreadsheet: a merged title above the header, and a second sheet with the categories.
func writeTools(dir string) (err error) {
	f := excelize.NewFile()
	defer func() {
		if closed := f.Close(); err == nil {
			err = closed
		}
	}()
	moment := day("2031-06-30").Format(time.RFC3339)
	steps := []error{
		f.SetDocProps(&excelize.DocProperties{Creator: "Tool library", Created: moment, Modified: moment}),
		f.SetSheetName("Sheet1", "Tools"),
		f.MergeCell("Tools", "A1", "F1"),
		f.SetSheetRow("Tools", "A1", &[]any{"Inventory of the tool library, June 2031"}),
		f.SetSheetRow("Tools", "A3", &[]any{"tool_no", "name", "category", "price", "bought_on", "deposit"}),
	}
	dates, err := f.NewStyle(&excelize.Style{NumFmt: 14})
	if err != nil {
		return err
	}
	for i, t := range toolNames {
		row := i + 4
		bought := day("2026-03-01").AddDate(0, i*2, i%5)
		steps = append(steps, f.SetSheetRow("Tools", fmt.Sprintf("A%d", row),
			&[]any{fmt.Sprintf("%03d", i+1), t.name, t.category, "€ " + thousands(int64(t.cents)),
				bought.Sub(day("1899-12-30")).Hours() / 24, max(5, t.cents/1000)}),
			f.SetCellStyle("Tools", fmt.Sprintf("E%d", row), fmt.Sprintf("E%d", row), dates))
	}
	if _, err := f.NewSheet("Categories"); err != nil {
		return err
	}
	steps = append(steps, f.SetSheetRow("Categories", "A1", &[]any{"category", "label"}))
	for i, c := range toolCategories {
		steps = append(steps, f.SetSheetRow("Categories", fmt.Sprintf("A%d", i+2), &[]any{c.code, c.label}))
	}
	for _, err := range steps {
		if err != nil {
			return err
		}
	}
	return f.SaveAs(filepath.Join(dir, "tools.xlsx"))
}
