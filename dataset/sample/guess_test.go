package sample

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLastRows: sums and notes at the end are found, also in a big file; a damaged row is none of them, and neither is a row of data.
func TestLastRows(t *testing.T) {
	var rows strings.Builder
	for i := range 9000 { // more than the end that is looked at first
		fmt.Fprintf(&rows, "%d,tin of paint,%d.50\n", i, i%90)
	}
	for size, body := range map[string]string{"small": "1,tin,2.50\n2,rope,3.75\n", "big": rows.String()} {
		for end, want := range map[string]int{
			"":                                     0,
			"Total,,6.25\n":                        1,
			"Total,,6.25\nread by Mr B on 3 May\n": 2,
			"Summe:,,6.25\n\"* figures, as reported\"\n": 2,
			",Grand total,6.25\n":                        1,
			"9001,rope\n":                                0, // damaged: too short
			"9001\n":                                     0,
			"9001,rope,2.50,7\n":                         0, // damaged: too long
			"rope\n":                                     0, // a word may be a cell
			"9001,total loss,2.50\n":                     0,
			"9001,,\n":                                   0, // blank cells are data
			"total loss of goods,,2.50\n":                0,
		} {
			path := filepath.Join(t.TempDir(), "f.csv")
			require.NoError(t, os.WriteFile(path, []byte("no,what,price\n"+body+end), 0o600))
			w, err := GuessWriting(path)
			require.NoError(t, err)
			require.Equal(t, Writing{SkipLast: want}, w, "%s, ending in %q", size, end)
		}
	}
}

// TestGuessWriting: how numbers and dates are written is found from whole columns, and only beyond doubt.
func TestGuessWriting(t *testing.T) {
	for text, want := range map[string]Writing{
		"a;b\n1,5;x\n2,25;y\n":                         {Decimal: ","},
		"a;b\n1.234,5;x\n12,25;y\n":                    {Decimal: ",", Thousands: "."},
		"a,b\n\"1,234.5\",x\n12.25,y\n":                {Thousands: ","},
		"a;b\n1'234.5;x\n12.25;y\n":                    {Thousands: "'"},
		"a;b\n1 234,5;x\n12,25;y\n":                    {Decimal: ",", Thousands: " "},
		"a,b\n1.234,x\n2.500,y\n":                      {}, // may be decimals
		"a,b\n1.5,x\n2.25,y\n":                         {},
		"a;b\n1,5;x\nn/a;y\n":                          {}, // not the whole column
		"a,b\n\"one, two\",x\n\"three, four\",y\n":     {},
		"a;d\n1;03.02.2031\n2;14.02.2031\n":            {DateFormat: "%d.%m.%Y"},
		"a,d\n1,02/13/2031\n2,02/03/2031\n":            {DateFormat: "%m/%d/%Y"},
		"a,d\n1,13/02/31\n2,03/02/31\n":                {DateFormat: "%d/%m/%y"},
		"a,d\n1,03/02/2031\n2,04/05/2031\n":            {}, // day and month cannot be told apart
		"a,d\n1,13/02/2031\n2,02/13/2031\n":            {}, // both
		"a,d\n1,2031-02-13\n2,2031-03-01\n":            {},
		"a,v\n1,10.1.0\n2,10.2.1\n":                    {}, // versions
		"a;d;p\n1;03.02.2031;4,50\n2;14.02.2031;1,0\n": {Decimal: ",", DateFormat: "%d.%m.%Y"},
	} {
		path := filepath.Join(t.TempDir(), "f.csv")
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		w, err := GuessWriting(path)
		require.NoError(t, err)
		assert.Equal(t, want, w, "%q", text)
	}
}

// TestDelimiter: a decimal comma is no delimiter, also where a row is damaged.
func TestDelimiter(t *testing.T) {
	for text, want := range map[string]byte{
		"farm;litres;day\nA;1,50;x\nB;80,25\nC;7,50;y\nD;3,25;z\n": ';',
		"farm;litres;day\nA;1,50;x\nB;80,25;y\n":                   ';',
		"a|b\n1,5|2\n3,5\n4,5|1\n":                                 '|',
		"a\tb\n1,5\t2\n3,5\n4,5\t1\n":                              '\t',
		"Report of May\n\nfarm;litres\nA;1,50\nB;80,25\n":          ';',
		"a,b\n1;2,x\n3;4,y\n":                                      ',',
		"a,b,c\n1,x,2\n3,y\n4,z,5\n":                               ',',
		"only\none\ntwo\n":                                         ',',
	} {
		path := filepath.Join(t.TempDir(), "f.csv")
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		s, err := Open(context.Background(), path, path, t.TempDir(), Options{})
		require.NoError(t, err)
		if s.Path == path { // else it was written anew
			assert.Equal(t, string(want), string(s.Delimiter), "%q", text)
		}
	}
}
