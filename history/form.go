package history

import (
	"errors"
	"fmt"
)

// errNewer says that a newer program wrote a file.
var errNewer = errors.New("it was written by a newer program")

// prepare brings a history to the present form, and refuses one of a newer program.
func (s *Store) prepare() error {
	k, has := s.db.kind, 0
	if err := s.db.QueryRowContext(s.ctx, k.form).Scan(&has); err != nil {
		return err
	}
	if has == len(k.forms) {
		return nil
	}
	return s.transact(func(tx *writer) error {
		if k.exclusive != "" {
			if _, err := tx.Exec(k.exclusive); err != nil {
				return err
			}
		}
		if err := tx.QueryRow(k.form).Scan(&has); err != nil { // another program may have been first
			return err
		}
		if has > len(k.forms) {
			return fmt.Errorf("%w (form %d, this one reads %d); use that program, or move the history away", errNewer, has, len(k.forms))
		}
		for form := has; form < len(k.forms); form++ {
			if _, err := tx.Tx.Exec(k.forms[form] + fmt.Sprintf(k.formNow, form+1)); err != nil {
				return err
			}
		}
		return nil
	})
}
