package history

import (
	"errors"
	"fmt"
)

// forms are the steps from an empty file to the present form: the n-th makes form n of form n−1. A step is never changed; a new form
// is a new step.
var forms = []string{`
CREATE TABLE run (
  id INTEGER PRIMARY KEY,
  translator TEXT NOT NULL,
  state TEXT NOT NULL,
  body TEXT NOT NULL
) STRICT;
CREATE TABLE attempt (
  run INTEGER NOT NULL REFERENCES run(id),
  place INTEGER NOT NULL,      -- in the plan
  question TEXT NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (run, place)
) STRICT;
CREATE TABLE result (          -- tables by the digest of their content
  digest TEXT PRIMARY KEY,
  body BLOB NOT NULL
) STRICT;
CREATE INDEX run_translator ON run(translator, id);`,
	// what was answered before it was judged
	`
CREATE TABLE reply (
  run INTEGER NOT NULL REFERENCES run(id),
  place INTEGER NOT NULL,      -- in the plan
  body TEXT NOT NULL,
  PRIMARY KEY (run, place)
) STRICT;`,
	// names of runs, judgements that were made later, and what lists and comparisons need of runs and attempts without reading them whole
	`
ALTER TABLE run ADD COLUMN summary TEXT;   -- of a finished run
CREATE TABLE light (            -- of each attempt the verdict and what goes with it, apart from the large rest
  run INTEGER NOT NULL,
  place INTEGER NOT NULL,
  form TEXT NOT NULL,
  PRIMARY KEY (run, place)
) STRICT, WITHOUT ROWID;
CREATE TABLE mark (
  name TEXT PRIMARY KEY,
  run INTEGER NOT NULL REFERENCES run(id)
) STRICT;
CREATE TABLE scoring (
  id INTEGER PRIMARY KEY,
  run INTEGER NOT NULL REFERENCES run(id),
  kind TEXT NOT NULL,
  body TEXT NOT NULL
) STRICT;
CREATE TABLE scored (
  scoring INTEGER NOT NULL REFERENCES scoring(id),
  place INTEGER NOT NULL,      -- of the attempt in its run
  body TEXT NOT NULL,
  light TEXT NOT NULL,
  PRIMARY KEY (scoring, place)
) STRICT;
CREATE INDEX scoring_run ON scoring(run, id);
CREATE INDEX run_body_uid ON run(json_extract(body, '$.uid'));`,
	// what a list shows of a finished run, what a list reads of the runs themselves, and what comparisons read, in one piece
	`
CREATE TABLE listing (          -- apart from the large rest: a list reads it alone
  run INTEGER PRIMARY KEY REFERENCES run(id),
  body BLOB NOT NULL           -- in CBOR
) STRICT;
CREATE TABLE bundle (           -- the light forms of all attempts
  run INTEGER PRIMARY KEY REFERENCES run(id),
  scoring INTEGER NOT NULL,    -- the diagnosis that they are of; 0 for none
  body BLOB NOT NULL
) STRICT;
CREATE INDEX run_state ON run(state, id);`,
}

// errNewer says that a newer program wrote a file.
var errNewer = errors.New("it was written by a newer program")

// prepare brings a file to the present form, and refuses one of a newer program.
func (s *Store) prepare() error {
	var has int
	if err := s.db.QueryRowContext(s.ctx, "PRAGMA user_version").Scan(&has); err != nil {
		return err
	}
	if has == len(forms) {
		return nil
	}
	tx, err := s.db.BeginTx(s.keeping(), nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()                                                   //nolint:errcheck // after a commit there is nothing to roll back
	if err := tx.QueryRow("PRAGMA user_version").Scan(&has); err != nil { // another program may have been first
		return err
	}
	if has > len(forms) {
		return fmt.Errorf("%w (form %d, this one reads %d); use that program, or move the file away", errNewer, has, len(forms))
	}
	for form := has; form < len(forms); form++ {
		if _, err := tx.Exec(forms[form] + fmt.Sprintf("PRAGMA user_version = %d;", form+1)); err != nil {
			return err
		}
	}
	return tx.Commit()
}
