package render

import (
	"encoding/xml"
	"fmt"
	"io"

	"tovrel/view"
)

type junitSuites struct {
	XMLName  xml.Name     `xml:"testsuites"`
	Name     string       `xml:"name,attr"`
	Tests    int          `xml:"tests,attr"`
	Failures int          `xml:"failures,attr"`
	Errors   int          `xml:"errors,attr"`
	Skipped  int          `xml:"skipped,attr"`
	Suites   []junitSuite `xml:"testsuite"`
}

type junitSuite struct {
	Name     string      `xml:"name,attr"`
	Tests    int         `xml:"tests,attr"`
	Failures int         `xml:"failures,attr"`
	Errors   int         `xml:"errors,attr"`
	Skipped  int         `xml:"skipped,attr"`
	Time     string      `xml:"time,attr"`
	Cases    []junitCase `xml:"testcase"`

	seconds float64
}

type junitCase struct {
	Name    string        `xml:"name,attr"`
	Class   string        `xml:"classname,attr"`
	Time    string        `xml:"time,attr"`
	Failure *junitProblem `xml:"failure"`
	Error   *junitProblem `xml:"error"`
	Skipped *junitProblem `xml:"skipped"`
}

type junitProblem struct {
	Message string `xml:"message,attr"`
	Type    string `xml:"type,attr,omitempty"`
	Text    string `xml:",chardata"`
}

// JUnit writes the cases of a screen as JUnit XML, the form that build servers read. It errs where the writer fails.
func JUnit(w io.Writer, s view.Screen) error {
	name := "tovrel"
	if len(s.Headline) > 0 {
		name = s.Headline[0].Text
	}
	out := junitSuites{Name: printable(name)}
	index := map[string]int{}
	for _, c := range s.Cases {
		i, known := index[c.Suite]
		if !known {
			i = len(out.Suites)
			index[c.Suite] = i
			out.Suites = append(out.Suites, junitSuite{Name: printable(c.Suite)})
		}
		out.Suites[i].add(c)
	}
	for i := range out.Suites {
		suite := &out.Suites[i]
		suite.Time = seconds(suite.seconds)
		out.Tests, out.Failures, out.Errors, out.Skipped = out.Tests+suite.Tests, out.Failures+suite.Failures, out.Errors+
			suite.Errors, out.Skipped+suite.Skipped
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	encoder := xml.NewEncoder(w)
	encoder.Indent("", "  ")
	if err := encoder.Encode(out); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

func (s *junitSuite) add(c view.Case) {
	one := junitCase{Name: printable(c.Name), Class: printable(c.Suite), Time: seconds(c.Seconds)}
	problem := &junitProblem{Message: printable(c.Message), Type: c.Kind, Text: c.Detail}
	switch c.Outcome {
	case view.CaseFailed:
		one.Failure = problem
		s.Failures++
	case view.CaseError:
		one.Error = problem
		s.Errors++
	case view.CaseSkipped:
		one.Skipped = problem
		s.Skipped++
	}
	s.Tests++
	s.seconds += c.Seconds
	s.Cases = append(s.Cases, one)
}

func seconds(s float64) string { return fmt.Sprintf("%.3f", s) }
