package record

import (
	"iter"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/score"
)

// Summary sums a run up, in the form of the JSON output.
type Summary struct {
	Run             int                    `json:"run"`
	Translator      string                 `json:"translator"`
	State           State                  `json:"state"`
	Questions       int                    `json:"questions"`
	AttemptsTotal   int                    `json:"attempts_total"`
	Right           int                    `json:"right"`
	Wrong           int                    `json:"wrong"`
	Failed          int                    `json:"failed"`
	Lucky           int                    `json:"lucky"`
	Unscored        int                    `json:"unscored"`
	UnscoredReasons map[fault.Reason]int   `json:"unscored_reasons"`
	Answered        int                    `json:"answered"`
	WrongOfAnswered *float64               `json:"wrong_of_answered"`
	Accuracy        *float64               `json:"accuracy"`
	Interval        *[2]float64            `json:"interval"`
	Agreement       *float64               `json:"agreement"`          // share of pairs of attempts of a question whose results match
	AgreeRepeats    *float64               `json:"agreement_repeats"`  // of the same wording
	AgreeWordings   *float64               `json:"agreement_wordings"` // of different wordings
	Standing        map[score.Standing]int `json:"standing"`
	Faults          map[fault.Code]int     `json:"faults"` // main faults
	Families        map[fault.Family]int   `json:"families"`
	Examples        map[fault.Code]string  `json:"fault_examples"` // a question that shows each
	Cost            float64                `json:"cost"`
	LatencyMS       Latency                `json:"latency_ms"`
	DurationMS      int64                  `json:"duration_ms"`
	Level           string                 `json:"briefing_level,omitempty"` // how much of the briefing was told
	Models          []string               `json:"models,omitempty"`         // that the replies name
	InputTokens     int64                  `json:"input_tokens,omitempty"`
	OutputTokens    int64                  `json:"output_tokens,omitempty"`

	wrongAnswers int // of the answered
}

// Latency of asking, in milliseconds.
type Latency struct {
	P50 float64 `json:"p50"`
	P95 float64 `json:"p95"`
}

// Summarise sums up a run's attempts.
func Summarise(r Run, attempts []Attempt) Summary {
	return SummariseEach(r, len(attempts), func(yield func(*Light) bool) {
		for i := range attempts {
			light := attempts[i].Light()
			if !yield(&light) {
				return
			}
		}
	})
}

// SummariseLight sums up a run's attempts by their light forms.
func SummariseLight(r Run, attempts []Light) Summary {
	return SummariseEach(r, len(attempts), func(yield func(*Light) bool) {
		for i := range attempts {
			if !yield(&attempts[i]) {
				return
			}
		}
	})
}

// SummariseEach sums up so many attempts of a run, which are not copied.
func SummariseEach(r Run, total int, attempts iter.Seq[*Light]) Summary {
	s := Summary{Run: r.ID, Translator: r.Translator, State: r.State, AttemptsTotal: total, DurationMS: r.Duration.Milliseconds(),
		Level: r.Options.Brief, Models: r.Models, InputTokens: r.InputTokens, OutputTokens: r.OutputTokens,
		UnscoredReasons: map[fault.Reason]int{}, Standing: map[score.Standing]int{}, Faults: map[fault.Code]int{},
		Families: map[fault.Family]int{}, Examples: map[fault.Code]string{}}
	for _, standing := range score.Standings() {
		s.Standing[standing] = 0
	}
	latencies := make([]float64, 0, total)
	for a := range attempts {
		s.count(a)
		latencies = a.latencies(latencies)
	}
	questions := byQuestion(r, total, attempts)
	s.Questions = len(questions)
	s.consistency(r)
	for _, q := range questions {
		s.Standing[score.StandingOf(q.Attempts)]++
	}
	if rate := score.Accuracy(questions); rate != nil {
		s.Accuracy, s.Interval = &rate.Value, &[2]float64{rate.Low, rate.High}
	}
	if s.Answered > 0 {
		share := float64(s.wrongAnswers) / float64(s.Answered)
		s.WrongOfAnswered = &share
	}
	s.LatencyMS = Latency{score.Percentile(latencies, 0.5), score.Percentile(latencies, 0.95)}
	return s
}

// Replies notes what the replies of a run's attempts say of themselves: their models, and all their tokens.
func (r *Run) Replies(attempts []Attempt) {
	r.Models, r.InputTokens, r.OutputTokens = nil, 0, 0
	for _, a := range attempts {
		if a.Model != "" && !slices.Contains(r.Models, a.Model) {
			r.Models = append(r.Models, a.Model)
		}
		r.InputTokens, r.OutputTokens = r.InputTokens+a.InputTokens, r.OutputTokens+a.OutputTokens
	}
	slices.Sort(r.Models)
}

// consistency adds up how far attempts of a question agree.
func (s *Summary) consistency(r Run) {
	var repeats, wordings Pairs
	for _, c := range r.Consistency {
		repeats, wordings = repeats.Plus(c.Repeats), wordings.Plus(c.Wordings)
	}
	s.AgreeRepeats, s.AgreeWordings, s.Agreement = repeats.Share(), wordings.Share(), repeats.Plus(wordings).Share()
}

// latencies adds those of the first tries of an attempt's asks, in milliseconds.
func (a *Light) latencies(out []float64) []float64 {
	if len(a.Tries) == 0 {
		if !a.Replied && a.Latency == 0 {
			return out
		}
		return append(out, float64(a.Latency.Microseconds())/1000)
	}
	for i, t := range a.Tries {
		if i == 0 || t.Ask != a.Tries[i-1].Ask {
			out = append(out, float64(t.Latency.Microseconds())/1000)
		}
	}
	return out
}

func (s *Summary) count(a *Light) {
	switch a.Verdict {
	case score.Right:
		s.Right++
	case score.Wrong:
		s.Wrong++
	case score.Failed:
		s.Failed++
	case score.Lucky:
		s.Lucky++
	case score.Unscored:
		s.Unscored++
		s.UnscoredReasons[a.Reason]++
	}
	if (a.Verdict == score.Right || a.Verdict == score.Wrong || a.Verdict == score.Lucky) && !a.Stance {
		s.Answered++
		if a.Verdict == score.Wrong {
			s.wrongAnswers++
		}
	}
	if a.Verdict != score.Unscored && len(a.Faults) > 0 {
		s.Faults[a.Main()]++
		s.Families[fault.FamilyOf(a.Main())]++
		if s.Examples[a.Main()] == "" {
			s.Examples[a.Main()] = a.Question
		}
	}
	s.Cost += a.Cost
}

// Standings judges each question over its attempts.
func Standings(attempts []Attempt) map[string]score.Standing {
	return StandingsLight(LightOf(attempts))
}

// StandingsLight judges each question over the light forms of its attempts.
func StandingsLight(attempts []Light) map[string]score.Standing {
	verdicts := map[string][]score.Verdict{}
	for _, a := range attempts {
		verdicts[a.Question] = append(verdicts[a.Question], a.Verdict)
	}
	out := map[string]score.Standing{}
	for name, all := range verdicts {
		out[name] = score.StandingOf(all)
	}
	return out
}

// byQuestion gathers verdicts by question, in the order in which questions first occur.
func byQuestion(r Run, total int, attempts iter.Seq[*Light]) []score.Question {
	index := map[string]int{}
	var questions []score.Question
	verdicts := make([]score.Verdict, 0, total) // those of a question mostly follow one another, and then share this
	last := -1
	for a := range attempts {
		i, ok := index[a.Question]
		if !ok {
			i = len(questions)
			index[a.Question] = i
			weight, given := r.Weights[a.Question]
			if !given {
				weight = 1
			}
			questions = append(questions, score.Question{Weight: weight, Thread: r.About[a.Question].Thread})
		}
		switch q := &questions[i]; {
		case len(q.Attempts) == 0:
			verdicts = append(verdicts, a.Verdict)
			q.Attempts = verdicts[len(verdicts)-1:]
			last = i
		case i == last && len(verdicts) < cap(verdicts):
			verdicts = append(verdicts, a.Verdict)
			q.Attempts = q.Attempts[:len(q.Attempts)+1]
		default:
			q.Attempts = append(q.Attempts[:len(q.Attempts):len(q.Attempts)], a.Verdict)
			if i == last {
				last = -1
			}
		}
	}
	return questions
}
