package demo

import (
	"fmt"
	"strings"
	"time"
)

// The dairy dataset: a milk co-operative over two and a half years, with what makes questions hard. All of it is made up.
const (
	dairySeed   = 20310630
	dairyFarms  = 60
	idleFarms   = 3 // the last ones: members that never delivered
	firstDay    = "2029-01-01"
	lastDay     = "2031-06-30"
	testPerLoad = 3 // of ten loads that get a lab test
)

// districts are codes with labels; a farm's district decides the route of its tanker.
var districts = []struct{ code, label string }{
	{"NV", "North Vale"}, {"SV", "South Vale"}, {"HB", "High Barrow"}, {"MR", "Marsh Reach"}, {"OL", "Old Lock"},
}

var statuses = []struct{ code, label string }{{"acc", "accepted"}, {"rej", "rejected"}, {"pen", "pending"}}

var (
	firstNames  = []string{"Alder", "Birch", "Cold", "Dray", "Elder", "Fern", "Gorse", "Hazel", "Ivy", "Juniper", "Kestrel", "Linden"}
	secondNames = []string{"Brook", "Croft", "Field", "Hollow", "Mead"}
)

type farm struct {
	id       int
	name     string
	district string
	herd     int
	joined   string
	organic  bool
	every    int // days between loads
}

// dairy holds the tables as CSV text while they are made.
type dairy struct {
	r     random
	farms []farm
	paid  map[string]int64 // cents of milk money by farm and month

	farmRows, codeRows, loadRows, testRows, paymentRows strings.Builder
	loads, tests, payments                              int
}

// makeDairy makes all tables.
func makeDairy() *dairy {
	d := &dairy{r: random{dairySeed}, paid: map[string]int64{}}
	d.codeRows.WriteString("kind,code,label\n")
	for _, x := range districts {
		fmt.Fprintf(&d.codeRows, "district,%s,%s\n", x.code, x.label)
	}
	for _, x := range statuses {
		fmt.Fprintf(&d.codeRows, "load status,%s,%s\n", x.code, x.label)
	}
	d.makeFarms()
	d.makeLoads()
	d.makePayments()
	return d
}

func (d *dairy) makeFarms() {
	d.farmRows.WriteString("farm_id,name,district,herd_size,joined_on,organic\n")
	for i := range dairyFarms {
		f := farm{id: i + 1, name: firstNames[i%len(firstNames)] + " " + secondNames[i/len(firstNames)], district: districts[i*7%5].code,
			herd: d.r.between(18, 140), organic: d.r.chance(250), every: []int{1, 2, 2, 2, 2, 2, 3, 3, 3, 3}[d.r.below(10)]}
		f.joined = day(firstDay).AddDate(-d.r.between(0, 20), -d.r.between(0, 11), 0).Format("2006-01-02")
		if i == dairyFarms-1 {
			f.joined = "2031-06-02" // joined this month, nothing collected yet
		}
		d.farms = append(d.farms, f)
		fmt.Fprintf(&d.farmRows, "%d,%s,%s,%d,%s,%t\n", f.id, f.name, f.district, f.herd, f.joined, f.organic)
	}
}

func day(text string) time.Time {
	t, err := time.Parse("2006-01-02", text)
	if err != nil {
		panic(err) // a constant of this package
	}
	return t
}

// makeLoads collects milk: more in the flush season (April to July), at times of the day that include the very first and
// last second of months.
func (d *dairy) makeLoads() {
	d.loadRows.WriteString("load_id,farm_id,loaded_at,tanker,litres,temperature_c,status,tmp_check\n")
	d.testRows.WriteString("test_id,load_id,tested_on,fat_pct,protein_pct,cell_count\n")
	end := day(lastDay)
	for t := day(firstDay); !t.After(end); t = t.AddDate(0, 0, 1) {
		for _, f := range d.farms[:dairyFarms-idleFarms] {
			if (t.YearDay()+f.id)%f.every == 0 || d.r.chance(15) {
				d.load(f, t)
			}
		}
	}
}

func (d *dairy) load(f farm, t time.Time) {
	d.loads++
	at := t.Add(time.Duration(d.r.between(4*3600, 22*3600)) * time.Second)
	tomorrow := t.AddDate(0, 0, 1)
	switch {
	case t.Day() == 1 && f.id%9 == 0:
		at = t // the first second of a month
	case tomorrow.Day() == 1 && f.id%7 == 0:
		at = tomorrow.Add(-time.Second) // its last
	}
	decilitres := f.herd * f.every * d.r.between(170, 230)
	if m := t.Month(); m >= time.April && m <= time.July {
		decilitres = decilitres * 125 / 100
	}
	status := "acc"
	switch {
	case d.r.chance(22):
		status = "rej"
	case t.After(day("2031-06-27")) && d.r.chance(400):
		status = "pen"
	}
	temperature := fmt.Sprintf("%d.%d", d.r.between(2, 6), d.r.below(10))
	if d.r.chance(8) {
		temperature = "" // the probe failed
	}
	fmt.Fprintf(&d.loadRows, "%d,%d,%s,%s,%d.%d,%s,%s,%d\n", d.loads, f.id, at.Format("2006-01-02 15:04:05"), "T"+
		string(f.district[0])+fmt.Sprint(1+f.id%3),
		decilitres/10, decilitres%10, temperature, status, d.r.below(2))
	if status == "acc" {
		d.paid[fmt.Sprintf("%d %s", f.id, t.Format("2006-01"))] += int64(decilitres) * int64(d.r.between(40, 46)) / 10
	}
	if d.r.below(10) < testPerLoad || status == "rej" {
		d.test(t)
		if d.r.chance(120) {
			d.test(t.AddDate(0, 0, 2)) // taken again: a load may have several tests
		}
	}
}

func (d *dairy) test(t time.Time) {
	d.tests++
	fat, protein, cells := fmt.Sprintf("%d.%02d", d.r.between(3, 4), d.r.below(100)), fmt.Sprintf("3.%02d", d.r.between(5, 85)),
		fmt.Sprint(1000*d.r.between(60, 520))
	if d.r.chance(45) {
		fat, protein, cells = "", "", "" // the sample was not taken
	}
	fmt.Fprintf(&d.testRows, "%d,%d,%s,%s,%s,%s\n", d.tests, d.loads, t.Format("2006-01-02"), fat, protein, cells)
}

// makePayments pays each farm for each month: gross, deductions, net. Some months have a second, correcting payment, and
// the last month is not paid yet.
func (d *dairy) makePayments() {
	d.paymentRows.WriteString("payment_id,farm_id,month,gross,deductions,net,paid_on\n")
	for t := day(firstDay); t.Before(day("2031-06-01")); t = t.AddDate(0, 1, 0) {
		for _, f := range d.farms {
			gross, ok := d.paid[fmt.Sprintf("%d %s", f.id, t.Format("2006-01"))]
			if !ok || t.Format("2006-01") == "2031-05" && f.id%19 == 0 { // a few are late
				continue
			}
			d.payment(f, t, gross, gross*int64(d.r.between(20, 90))/1000)
			if d.r.chance(30) {
				d.payment(f, t, int64(d.r.between(-4000, 9000)), 0)
			}
		}
	}
}

func (d *dairy) payment(f farm, month time.Time, gross, deductions int64) {
	d.payments++
	fmt.Fprintf(&d.paymentRows, "%d,%d,%s,%s,%s,%s,%s\n", d.payments, f.id, month.Format("2006-01-02"), cents(gross), cents(deductions),
		cents(gross-deductions), month.AddDate(0, 1, d.r.between(4, 9)).Format("2006-01-02"))
}

func cents(c int64) string {
	sign := ""
	if c < 0 {
		sign, c = "-", -c
	}
	return fmt.Sprintf("%s%d.%02d", sign, c/100, c%100)
}
