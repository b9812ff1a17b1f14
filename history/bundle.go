package history

import (
	"database/sql"
	"encoding/binary"
	"encoding/json"
	"errors"
	"math"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/trouble"
)

// The light forms of a finished run are kept in one piece beside those of each attempt: reading a hundred thousand rows takes several times
// as long as reading what they say. A piece is the number of attempts, then each attempt's fields one after the other: numbers as
// varints, a cost as eight bytes, and a text as its number among the texts so far, with length and bytes where it is new.

// packer writes a piece.
type packer struct {
	out   []byte
	known map[string]uint64
}

func (p *packer) number(n int64) { p.out = binary.AppendVarint(p.out, n) }

func (p *packer) text(s string) {
	n, has := p.known[s]
	if !has {
		n = uint64(len(p.known))
		p.known[s] = n
	}
	p.out = binary.AppendUvarint(p.out, n)
	if !has {
		p.out = append(binary.AppendUvarint(p.out, uint64(len(s))), s...)
	}
}

func (p *packer) flag(is bool) {
	n := int64(0)
	if is {
		n = 1
	}
	p.number(n)
}

// packed writes light forms in one piece.
func packed(all Lights) []byte {
	p := packer{known: map[string]uint64{}}
	p.number(int64(len(all.Attempts)))
	for i := range all.Attempts {
		a := &all.Attempts[i]
		p.number(int64(all.Places[i]))
		p.text(a.Question)
		p.text(a.Wording)
		p.text(a.Answer)
		p.text(a.Said)
		p.text(string(a.Verdict))
		p.text(string(a.Reason))
		p.text(codesOf(a.Faults))
		p.text(strings.Join(a.MissedOn, " "))
		p.text(triesOf(a.Tries))
		p.number(int64(a.Latency))
		p.out = binary.LittleEndian.AppendUint64(p.out, math.Float64bits(a.Cost))
		p.number(a.Tokens)
		p.number(int64(a.Repeat))
		p.number(int64(a.Turn))
		p.flag(a.Stance)
		p.flag(a.Replied)
	}
	return p.out
}

// codesOf writes fault codes; faultsOf of a reader reads them.
func codesOf(codes []fault.Code) string {
	texts := make([]string, len(codes))
	for i, c := range codes {
		texts[i] = string(c)
	}
	return strings.Join(texts, " ")
}

// triesOf writes tries; "" for none.
func triesOf(tries []record.Try) string {
	if len(tries) == 0 {
		return ""
	}
	body, _ := json.Marshal(tries) // plain fields always encode
	return string(body)
}

// errDamaged says that a piece ends early or says what cannot be.
var errDamaged = errors.New("the attempts in one piece cannot be read")

// unpacker reads a piece; after the first defect it reads nothing more.
type unpacker struct {
	in     []byte
	known  []string
	faults lightReader
	err    error
}

func (u *unpacker) moved(size int) bool {
	if size <= 0 || size > len(u.in) {
		u.err, u.in = errDamaged, nil
		return false
	}
	u.in = u.in[size:]
	return true
}

func (u *unpacker) number() int64 {
	n, size := binary.Varint(u.in)
	if !u.moved(size) {
		return 0
	}
	return n
}

func (u *unpacker) unsigned() uint64 {
	n, size := binary.Uvarint(u.in)
	if !u.moved(size) {
		return 0
	}
	return n
}

func (u *unpacker) text() string {
	n := u.unsigned()
	if n < uint64(len(u.known)) {
		return u.known[n]
	}
	size := u.unsigned()
	if u.err != nil || n > uint64(len(u.known)) || size > uint64(len(u.in)) {
		u.err, u.in = errDamaged, nil
		return ""
	}
	s := string(u.in[:size])
	u.in, u.known = u.in[size:], append(u.known, s)
	return s
}

func (u *unpacker) cost() float64 {
	const size = 8
	if len(u.in) < size {
		u.err, u.in = errDamaged, nil
		return 0
	}
	bits := binary.LittleEndian.Uint64(u.in)
	u.in = u.in[size:]
	return math.Float64frombits(bits)
}

// attempt reads the next attempt with its place.
func (u *unpacker) attempt() (place int, a record.Light) {
	place = int(u.number())
	a = record.Light{Question: u.text(), Wording: u.text(), Answer: u.text(), Said: u.text(), Verdict: score.Verdict(u.text()),
		Reason: fault.Reason(u.text())}
	a.Faults = u.faults.faultsOf(u.text())
	a.MissedOn = strings.Fields(u.text())
	if tries := u.text(); tries != "" && json.Unmarshal([]byte(tries), &a.Tries) != nil {
		u.err = errDamaged
	}
	a.Latency, a.Cost, a.Tokens = time.Duration(u.number()), u.cost(), u.number()
	a.Repeat, a.Turn = int32(u.number()), int32(u.number()) //nolint:gosec // counts of asks are small
	a.Stance, a.Replied = u.number() == 1, u.number() == 1
	return place, a
}

// unpacked reads light forms that were written in one piece.
func unpacked(piece []byte) (Lights, error) {
	u := unpacker{in: piece, faults: newLightReader()}
	n := u.number()
	if u.err != nil || n < 0 || n > int64(len(piece)) {
		return Lights{}, errDamaged
	}
	out := Lights{make([]record.Light, 0, n), make([]int, 0, n)}
	for range n {
		place, a := u.attempt()
		if u.err != nil {
			return Lights{}, u.err
		}
		out.Attempts, out.Places = append(out.Attempts, a), append(out.Places, place)
	}
	return out, nil
}

// bundle reads the light forms of a run in one piece, as its newest diagnosis has them; false where they are not kept so.
func (s *Store) bundle(runID, diagnosed int) (Lights, bool, error) {
	var body []byte
	err := s.db.QueryRowContext(s.ctx, "SELECT body FROM bundle WHERE run = ? AND scoring = ?", runID, diagnosed).Scan(&body)
	if errors.Is(err, sql.ErrNoRows) {
		return Lights{}, false, nil
	}
	if err != nil {
		return Lights{}, false, trouble.As(trouble.Unreachable, err)
	}
	all, err := unpacked(body)
	if err != nil {
		return all, false, trouble.New(trouble.Unreachable, "the history is damaged: run %d: %w", runID, err)
	}
	return all, true, nil
}

// unbundle forgets the piece of a run that changes.
func unbundle(tx *writer, runID int) error {
	_, err := tx.Exec("DELETE FROM bundle WHERE run = ?", runID)
	return err
}
