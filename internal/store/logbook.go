package store

import (
	"context"
	"database/sql"
	"errors"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/google/uuid"
	"golang.org/x/text/unicode/norm"

	"corriente/core/learn"
)

// index renews the words that a job is found by.
func index(ctx context.Context, tx *sql.Tx, job uuid.UUID) error {
	var opened time.Time
	var said, read sql.NullString
	err := tx.QueryRowContext(ctx, `SELECT j.opened_at, CONCAT_WS(' ', m.name, m.kind, m.place, REPLACE(j.circuit, '_', ' '), j.complaint, v.says, (SELECT GROUP_CONCAT(REPLACE(REPLACE(o.fault, '_', ' '), '.', ' ') SEPARATOR ' ') FROM outcomes o WHERE o.job_id = j.id),
			(SELECT GROUP_CONCAT(r.what SEPARATOR ' ') FROM repairs r WHERE r.job_id = j.id),
			(SELECT GROUP_CONCAT(CONCAT_WS(' ', d.label, d.reason, d.who) SEPARATOR ' ') FROM decisions d WHERE d.job_id = j.id)),
			(SELECT GROUP_CONCAT(CONCAT_WS(' ', REPLACE(e.observe, '_', ' '), REPLACE(e.outcome, '_', ' '), CONCAT(e.value_text, `+unitUnsaid+`), e.circumstance) SEPARATOR ' ') FROM evidence e WHERE e.job_id = j.id AND e.struck_at IS NULL)
		FROM jobs j JOIN machines m ON m.id = j.machine_id LEFT JOIN verdicts v ON v.job_id = j.id AND v.revision = j.verdict_revision
		WHERE j.id = ?`, job[:]).Scan(&opened, &said, &read)
	if err != nil {
		return notFound(err)
	}
	_, err = tx.ExecContext(ctx, "INSERT INTO job_words (job_id, opened_at, words) VALUES (?,?,?) ON DUPLICATE KEY "+
		"UPDATE words = VALUES(words)", job[:], opened, worded(said.String+" "+read.String))
	return err
}

// unitUnsaid is the unit of a figure that was typed without one.
const unitUnsaid = `IF(e.value_text REGEXP '[0-9]$',
	CASE e.measure WHEN 'voltage' THEN 'V' WHEN 'ac_voltage' THEN 'V' WHEN 'current' THEN 'A' WHEN 'resistance' THEN 'ohm' WHEN 'frequency' THEN 'Hz' ELSE '' END, '')`

// wordsAtMost is how many bytes of a job's words are kept: what a column of text holds.
const wordsAtMost = 60000

// worded is a text as job_words holds it.
func worded(text string) string {
	out := " " + strings.Join(terms(text), " ")
	if len(out) > wordsAtMost {
		out = out[:strings.LastIndexByte(out[:wordsAtMost], ' ')]
	}
	return out
}

// reword brings words as they were kept before into the form they have now.
func (s *Store) reword(ctx context.Context) error {
	for {
		rows, err := s.DB.QueryContext(ctx, "SELECT job_id, words FROM job_words WHERE words NOT LIKE ' %' LIMIT 500")
		if err != nil {
			return err
		}
		var ids []uuid.UUID
		var words []string
		for rows.Next() {
			var id uuid.UUID
			var w string
			if err := rows.Scan(&id, &w); err != nil {
				rows.Close()
				return err
			}
			ids, words = append(ids, id), append(words, w)
		}
		if err := rows.Err(); err != nil || len(ids) == 0 {
			return err
		}
		err = s.tx(ctx, func(tx *sql.Tx) error {
			for i := range ids {
				if _, err := tx.ExecContext(ctx, "UPDATE job_words SET words = ? WHERE job_id = ?", worded(words[i]),
					ids[i][:]); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
}

// Entry is one line of the logbook.
type Entry struct {
	ID        uuid.UUID
	Old       bool // from an imported list: there is no job behind it
	Machine   string
	MachineID uuid.UUID
	Circuit   string
	Complaint string
	Says      string // the verdict, or what the old list says was found
	Station   string // what it turned out to be
	Fault     string
	Option    string
	Price     *float64
	OpenedAt  time.Time
	ClosedAt  *time.Time
	Readings  int
	Was       []string // what its repairs turned out to be for, station.mode or none; empty while nobody signed
}

// Search is what is looked for; empty fields match all.
type Search struct {
	Words    string
	Machine  *uuid.UUID
	Circuit  string
	From, To *time.Time
	Before   *time.Time // only what was opened earlier: the next page
	Limit    int
}

// sample is how many of the newest jobs say how common a word is.
const sample = 500

// common is the share of jobs from which a word is better looked for in the jobs
// themselves, newest first, than in the index: the index would fetch them all.
const common = 0.02

// decimal is the point or comma of a number: in job_words a number is one word.
var decimal = regexp.MustCompile(`(\p{N})[.,](\p{N})`)

// unitAfter is a number with its unit behind a blank, as people type it.
var unitAfter = regexp.MustCompile(`(\p{N}) +((?:[mkuµ]?(?:v|a|ohm|hz|w|rpm))\b)`)

// terms are the words of a text: small letters without their accents, a number one word
// with its unit.
func terms(text string) []string {
	text = strings.ReplaceAll(norm.NFD.String(strings.ToLower(text)), "ω", "ohm")
	text = unitAfter.ReplaceAllString(decimal.ReplaceAllString(text, "${1}_$2"), "$1$2")
	var out []string
	var word strings.Builder
	for _, r := range text + " " {
		switch {
		case unicode.Is(unicode.Mn, r): // an accent
		case unicode.IsLetter(r), unicode.IsDigit(r), r == '_' && word.Len() > 0:
			word.WriteRune(r)
		case word.Len() > 0:
			out = append(out, word.String())
			word.Reset()
		}
	}
	return out
}

// asked are the words of a question.
func asked(q string) []string {
	words := terms(q)
	return words[:min(len(words), 8)]
}

// like is the condition that a word begins one of a job's.
const like = "words LIKE ?"

// found is the query for the ids of the jobs that have all the words, with its arguments.
// Nothing is put in a temporary table: words are long.
func (s *Store) found(ctx context.Context, x *Search, words []string, limit int) (string, []any, error) {
	var all []string
	var args []any
	for _, w := range words {
		all, args = append(all, like), append(args, "% "+w+"%")
	}
	before := time.Now().UTC().AddDate(1, 0, 0)
	if x.Before != nil {
		before = x.Before.UTC()
	}
	var since time.Time // the newest jobs begin here
	err := s.DB.QueryRowContext(ctx, "SELECT opened_at FROM job_words WHERE opened_at < ? ORDER BY opened_at DESC LIMIT 1 OFFSET "+
		strconv.Itoa(sample), before).Scan(&since)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return "", nil, err
	}
	page := limit > 0 && x.Machine == nil && x.Circuit == "" && x.From == nil && x.To == nil
	scan := "SELECT job_id FROM job_words WHERE opened_at < ? AND " + strings.Join(all, " AND ")
	scanArgs := append([]any{before}, args...)
	if page {
		scan += " ORDER BY opened_at DESC LIMIT " + strconv.Itoa(limit)
	}
	if since.IsZero() { // few jobs: look at them all
		return scan, scanArgs, nil
	}
	counts := make([]float64, len(words)+1)
	dest, sums := []any{}, []string{}
	for i := range words {
		dest, sums = append(dest, &counts[i]), append(sums, "COALESCE(SUM("+like+"), 0)")
	}
	dest = append(dest, &counts[len(words)])
	sums = append(sums, "COALESCE(SUM("+strings.Join(all, " AND ")+"), 0)")
	q := "SELECT " + strings.Join(sums, ", ") + " FROM job_words WHERE opened_at >= ? AND opened_at < ?"
	if err := s.DB.QueryRowContext(ctx, q, append(append(slices.Clone(args), args...), since, before)...).Scan(dest...); err != nil {
		return "", nil, err
	}
	const n = float64(sample)
	if page && counts[len(words)] >= float64(limit)/4 { // a page is found among a few times as many
		return scan, scanArgs, nil
	}
	var match strings.Builder
	cond := ""
	args = []any{}
	for i, w := range words {
		if len(w) >= 3 && !stop[w] && counts[i] < common*n {
			match.WriteString("+" + w + "* ")
			continue
		}
		cond += " AND " + like
		args = append(args, "% "+w+"%")
	}
	if x.Before != nil {
		cond, args = cond+" AND opened_at < ?", append(args, x.Before.UTC())
	}
	head := "SELECT job_id FROM job_words WHERE 1=1"
	if match.Len() > 0 {
		head, args = "SELECT job_id FROM job_words WHERE MATCH (words) AGAINST (? IN BOOLEAN MODE)",
			append([]any{strings.TrimSpace(match.String())}, args...)
	}
	if page {
		cond += " ORDER BY opened_at DESC LIMIT " + strconv.Itoa(limit)
	}
	return head + cond, args, nil
}

const entryCols = `j.id, m.name, m.id, j.circuit, j.complaint, COALESCE(v.says,''), COALESCE(o.station, ''), COALESCE(o.fault,''), COALESCE(o.option_id,''), (SELECT SUM(c.price) FROM job_costs c WHERE c.job_id = j.id), j.opened_at, j.closed_at, COALESCE(o.readings, 0),
	(SELECT GROUP_CONCAT(IF(x.station = '', 'none', x.fault) ORDER BY x.item SEPARATOR ' ') FROM outcomes x WHERE x.job_id = j.id)`

const entryJoins = ` JOIN machines m ON m.id = j.machine_id LEFT JOIN verdicts v ON v.job_id = j.id AND v.revision = j.verdict_revision
	LEFT JOIN outcomes o ON o.job_id = j.id AND o.item = 0`

func (x *Search) where(words string, args []any) (string, []any) {
	q := " WHERE 1=1"
	if x.Machine != nil {
		q, args = q+" AND j.machine_id = ?", append(args, x.Machine[:])
	}
	if x.Circuit != "" {
		q, args = q+" AND j.circuit = ?", append(args, x.Circuit)
	}
	for _, t := range []struct {
		cond string
		at   *time.Time
	}{{" AND j.opened_at >= ?", x.From}, {" AND j.opened_at < ?", x.To}, {" AND j.opened_at < ?", x.Before}} {
		if t.at != nil {
			q, args = q+t.cond, append(args, t.at.UTC())
		}
	}
	return q + words, args
}

// Logbook lists what matches, newest first: every word of the question as the beginning
// of a word of the job.
func (s *Store) Logbook(ctx context.Context, x Search) ([]Entry, error) {
	limit := x.Limit
	if limit <= 0 || limit > 500 {
		limit = 50
	}
	out := []Entry{}
	err := s.entries(ctx, x, limit, func(e *Entry) error { out = append(out, *e); return nil })
	return out, err
}

// entries hands each matching entry on as it comes.
func (s *Store) entries(ctx context.Context, x Search, limit int, f func(*Entry) error) error {
	words := asked(x.Words)
	if strings.TrimSpace(x.Words) != "" && len(words) == 0 {
		return nil
	}
	// The page's own jobs are found first, by an index in the order of their days; only they
	// are joined to the rest.
	var args []any
	from := "SELECT j.id FROM jobs j"
	if len(words) > 0 {
		in, inArgs, err := s.found(ctx, &x, words, limit)
		if err != nil {
			return err
		}
		from, args = "SELECT j.id FROM ("+in+") w JOIN jobs j ON j.id = w.job_id", inArgs
	}
	where, args := x.where("", args)
	q := from + where + " ORDER BY j.opened_at DESC, j.id DESC"
	if limit > 0 {
		q, args = q+" LIMIT ?", append(args, limit)
	}
	q = "SELECT " + entryCols + " FROM (" + q + ") page JOIN jobs j ON j.id = page.id" + entryJoins +
		" ORDER BY j.opened_at DESC, j.id DESC"
	rows, err := s.DB.QueryContext(ctx, q, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var e Entry
		var was sql.NullString
		if err := rows.Scan(&e.ID, &e.Machine, &e.MachineID, &e.Circuit, &e.Complaint, &e.Says, &e.Station, &e.Fault,
			&e.Option, &e.Price, &e.OpenedAt, &e.ClosedAt, &e.Readings, &was); err != nil {
			return err
		}
		e.Was = strings.Fields(was.String)
		if err := f(&e); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Every hands on every matching entry, newest first, in constant memory.
func (s *Store) Every(ctx context.Context, x Search, f func(*Entry) error) error {
	return s.entries(ctx, x, 0, f)
}

// OldJob is a line of a list that was kept before.
type OldJob struct {
	Machine, Circuit, Fault, What, Done string
	On                                  time.Time
	Price                               *float64
}

// PutOldJobs keeps the lines of an old list, all or none; those that are there already
// are left.
func (s *Store) PutOldJobs(ctx context.Context, list []OldJob) (added int, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		q, err := tx.PrepareContext(ctx, "INSERT IGNORE INTO old_jobs (id, machine, circuit, fault, what, done, "+
			"on_date, price, imported_at) VALUES (?,?,?,?,?,?,?,?,UTC_TIMESTAMP(6))")
		if err != nil {
			return err
		}
		defer q.Close()
		for _, o := range list {
			id := NewID()
			r, err := q.ExecContext(ctx, id[:], o.Machine, o.Circuit, o.Fault, o.What, o.Done, o.On.Format(time.DateOnly), o.Price)
			if err != nil {
				return err
			}
			n, _ := r.RowsAffected()
			added += int(n)
		}
		return nil
	})
	return added, err
}

// OldJobs lists lines of old lists that match.
func (s *Store) OldJobs(ctx context.Context, x Search) ([]Entry, error) {
	q, args := "SELECT id, machine, circuit, what, done, fault, price, on_date FROM old_jobs WHERE 1=1", []any{}
	if m := boolean(strings.Fields(strings.ToLower(x.Words))); m != "" {
		q, args = q+" AND MATCH (machine, what, done, fault) AGAINST (? IN BOOLEAN MODE)", append(args, m)
	} else if strings.TrimSpace(x.Words) != "" {
		return []Entry{}, nil
	}
	if x.Circuit != "" {
		q, args = q+" AND circuit = ?", append(args, x.Circuit)
	}
	for _, t := range []struct {
		cond string
		at   *time.Time
	}{{" AND on_date >= ?", x.From}, {" AND on_date < ?", x.To}, {" AND on_date < ?", x.Before}} {
		if t.at != nil {
			q, args = q+t.cond, append(args, t.at.UTC())
		}
	}
	rows, err := s.DB.QueryContext(ctx, q+" ORDER BY on_date DESC LIMIT 50", args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Entry{}
	for rows.Next() {
		e := Entry{Old: true}
		if err := rows.Scan(&e.ID, &e.Machine, &e.Circuit, &e.Complaint, &e.Says, &e.Fault, &e.Price, &e.OpenedAt); err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return out, rows.Err()
}

// Counts lists how often each fault was confirmed on a circuit, in three groups of which
// none holds another: on other kinds of machines, on this kind at another age, and on this
// kind at this age. Without a kind all are in the first; ages are [learn.Age]'s groups.
func (s *Store) Counts(ctx context.Context, circuit, kind string, age int, since time.Time) (groups [3][]learn.Count, err error) {
	q, args := "SELECT fault, machine_kind, age, n FROM fault_sums WHERE circuit = ? AND n > 0", []any{circuit}
	if since.Unix() > 0 {
		q = "SELECT fault, machine_kind, COALESCE(age, -1), COUNT(*) FROM outcomes WHERE circuit = ? AND at >= ? " +
			"AND excluded = 0 AND fault <> '' GROUP BY 1, 2, 3 ORDER BY NULL"
		args = append(args, since.UTC())
	}
	rows, err := s.DB.QueryContext(ctx, q, args...)
	if err != nil {
		return groups, err
	}
	defer rows.Close()
	want := learn.Age(age)
	for rows.Next() {
		var c learn.Count
		var of string
		var years int
		if err := rows.Scan(&c.Fault, &of, &years, &c.N); err != nil {
			return groups, err
		}
		g := 0
		if kind != "" && of == kind {
			g = 1
			if want > 0 && learn.Age(years) == want {
				g = 2
			}
		}
		groups[g] = append(groups[g], c)
	}
	return groups, rows.Err()
}

// ByKind counts a circuit's confirmed faults by the kind of machine, since a time.
func (s *Store) ByKind(ctx context.Context, circuit string, since time.Time) (map[string][]learn.Count, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT machine_kind, fault, COUNT(*) FROM outcomes WHERE circuit = ? AND at >= ? AND excluded = 0 AND "+
			"fault <> '' GROUP BY 1, 2 ORDER BY 1, 3 DESC, 2", circuit, since.UTC())
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string][]learn.Count{}
	for rows.Next() {
		var kind string
		var c learn.Count
		if err := rows.Scan(&kind, &c.Fault, &c.N); err != nil {
			return nil, err
		}
		out[kind] = append(out[kind], c)
	}
	return out, rows.Err()
}

// AccessTimes lists how long getting at each access group of a circuit took where a person
// said so: on machines of another kind and of this one.
func (s *Store) AccessTimes(ctx context.Context, circuit, kind string, since time.Time) (others, own map[string][]float64, err error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT a.access, ? <> '' AND o.machine_kind = ?, a.minutes FROM access_times a JOIN outcomes o ON o.job_id = a.job_id AND o.item = 0
		WHERE o.circuit = ? AND o.excluded = 0 AND o.at >= ? ORDER BY o.at DESC LIMIT 2000`, kind, kind, circuit, since.UTC())
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	others, own = map[string][]float64{}, map[string][]float64{}
	for rows.Next() {
		var g string
		var here bool
		var m float64
		if err := rows.Scan(&g, &here, &m); err != nil {
			return nil, nil, err
		}
		if here {
			own[g] = append(own[g], m)
		} else {
			others[g] = append(others[g], m)
		}
	}
	return others, own, rows.Err()
}

// Done is one repair in a machine's life.
type Done struct {
	Machine uuid.UUID
	Option  string
	At      time.Time
}

// Lives lists the repairs of one station on one circuit, machine by machine.
func (s *Store) Lives(ctx context.Context, circuit, station string) ([]Done, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT machine_id, option_id, at FROM outcomes WHERE circuit = ? AND station = ? ORDER BY machine_id, at LIMIT 20000",
		circuit, station)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Done
	for rows.Next() {
		var d Done
		if err := rows.Scan(&d.Machine, &d.Option, &d.At); err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, rows.Err()
}

// Reliability is how the verdicts did.
type Reliability struct {
	Claims   []learn.Claim
	Jobs     int
	Readings float64 // mean
	Minutes  float64 // mean
}

// Reliability sums up the confirmed jobs.
func (s *Store) Reliability(ctx context.Context) (*Reliability, error) {
	r := &Reliability{}
	rows, err := s.DB.QueryContext(ctx, "SELECT was_right, n, p, readings, minutes FROM claim_sums WHERE n > 0 ORDER BY p100, was_right")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var right bool
		var n int
		var p, readings, minutes float64
		if err := rows.Scan(&right, &n, &p, &readings, &minutes); err != nil {
			return nil, err
		}
		r.Claims = append(r.Claims, learn.Claim{P: p / float64(n), Right: right, N: n})
		r.Jobs += n
		r.Readings += readings
		r.Minutes += minutes
	}
	if r.Jobs > 0 {
		r.Readings /= float64(r.Jobs)
		r.Minutes /= float64(r.Jobs)
	}
	return r, rows.Err()
}

// Time is how long finding out took on one job, against what its entries were reckoned with, in minutes.
type Time struct {
	Job     uuid.UUID
	Machine string
	Circuit string
	Spent   float64
	Advised float64
	At      time.Time
}

// Times lists the latest confirmed jobs of which both minutes are known, the newest first.
func (s *Store) Times(ctx context.Context, n int) ([]Time, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT o.job_id, m.name, j.circuit, SUM(o.minutes), SUM(o.advised), MAX(o.at) last FROM outcomes o
		JOIN jobs j ON j.id = o.job_id JOIN machines m ON m.id = j.machine_id
		WHERE o.excluded = 0 AND o.minutes > 0 AND o.advised > 0 GROUP BY o.job_id, m.name, j.circuit ORDER BY last DESC LIMIT ?`, n)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Time{}
	for rows.Next() {
		var t Time
		if err := rows.Scan(&t.Job, &t.Machine, &t.Circuit, &t.Spent, &t.Advised, &t.At); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, rows.Err()
}

// Wrong lists the latest jobs whose verdict was wrong.
func (s *Store) Wrong(ctx context.Context, n int) ([]Entry, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT "+entryCols+
		" FROM (SELECT job_id FROM outcomes WHERE was_right = 0 AND p IS NOT NULL GROUP BY job_id ORDER BY MAX(at) "+
		"DESC LIMIT ?) w JOIN jobs j ON j.id = w.job_id"+entryJoins, n)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Entry{}
	for rows.Next() {
		var e Entry
		var was sql.NullString
		if err := rows.Scan(&e.ID, &e.Machine, &e.MachineID, &e.Circuit, &e.Complaint, &e.Says, &e.Station, &e.Fault,
			&e.Option, &e.Price, &e.OpenedAt, &e.ClosedAt, &e.Readings, &was); err != nil {
			return nil, err
		}
		e.Was = strings.Fields(was.String)
		out = append(out, e)
	}
	return out, rows.Err()
}
