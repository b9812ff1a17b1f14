package history

// lite is the history in a SQLite file.
var lite = kind{
	forms:    liteForms,
	form:     "PRAGMA user_version",
	formNow:  "PRAGMA user_version = %d;",
	cutShort: liteCutShort,
	columns:  `id, iif(` + liteCutShort + `, json_set(body, '$.state', 'stopped'), body)`,
	uid:      `json_extract(body, '$.uid')`,
	places:   "SELECT value FROM json_each(?)",
	verdict:  `json_extract(body, '$.Verdict')`,
	used: `SELECT json_extract(body, '$.Expected') FROM attempt UNION SELECT json_extract(body, '$.Answer') FROM attempt
		UNION SELECT json_extract(body, '$.Expected') FROM scored UNION SELECT json_extract(body, '$.Answer') FROM scored
		UNION SELECT coalesce(json_extract(under.value, '$.told'), '') FROM run, json_each(run.body, '$.under') AS under`,
	states:  "SELECT id, state FROM run INDEXED BY run_state",
	compact: "VACUUM",
}

// liteCutShort tells of a finished run that its budget ended it; earlier programs stored such runs as complete.
const liteCutShort = `iif(json_valid(summary), coalesce(json_extract(summary, '$.summary.unscored_reasons."over-budget"'), 0) > 0, 0)`

// liteForms are the steps from an empty file to the present form: the n-th makes form n of form n−1. A step is never changed; a new form
// is a new step.
var liteForms = []string{`
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
