package view

import (
	"reflect"

	"tovrel/core/record"
)

// Forms are the types of the JSON outputs, by the name of their schema.
func Forms() map[string]reflect.Type {
	return map[string]reflect.Type{
		"run":           reflect.TypeFor[[]record.Summary](),
		"show":          reflect.TypeFor[withAttempts](),
		"show-question": reflect.TypeFor[questionForm](),
		"show-several":  reflect.TypeFor[abreastForm](),
		"match":         reflect.TypeFor[MatchForm](),
		"why":           reflect.TypeFor[WhyForm](),
		"why-question":  reflect.TypeFor[whyQuestionForm](),
		"why-run":       reflect.TypeFor[causesForm](),
		"compare":       reflect.TypeFor[compareForm](),
		"try":           reflect.TypeFor[trialForm](),
		"compare-many":  reflect.TypeFor[severalForm](),
		"gate":          reflect.TypeFor[gateForm](),
		"review":        reflect.TypeFor[reviewForm](),
		"review-decide": reflect.TypeFor[decidedForm](),
		"rescore":       reflect.TypeFor[rescoreForm](),
		"accept":        reflect.TypeFor[AcceptForm](),
		"history-tidy":  reflect.TypeFor[removedForm](),
		"ask":           reflect.TypeFor[askedForm](),
		"dry-run":       reflect.TypeFor[dryRunForm](),
		"history":       reflect.TypeFor[historyForm](),
		"work":          reflect.TypeFor[workedForm](),
		"history-drift": reflect.TypeFor[driftsForm](),
		"data-list":     reflect.TypeFor[datasetsForm](),
		"data-inspect":  reflect.TypeFor[findingsForm](),
		"data-profile":  reflect.TypeFor[profileForm](),
		"data-tidy":     reflect.TypeFor[tidiedForm](),
		"data-twin":     reflect.TypeFor[twinsForm](),
		"data-facts":    reflect.TypeFor[factsForm](),
		"set-export":    reflect.TypeFor[sheetsForm](),
		"set-import":    reflect.TypeFor[importedForm](),
		"harvest":       reflect.TypeFor[harvestedForm](),
		"set-list":      reflect.TypeFor[questionsForm](),
		"set-refresh":   reflect.TypeFor[refreshForm](),
		"set-coverage":  reflect.TypeFor[coverageForm](),
		"set-add":       reflect.TypeFor[AddedForm](),
		"set-draft":     reflect.TypeFor[draftedForm](),
		"set-strength":  reflect.TypeFor[strengthForm](),
		"set-check":     reflect.TypeFor[checkForm](),
		"mark":          reflect.TypeFor[markedForm](),
		"version":       reflect.TypeFor[versionForm](),
	}
}
