package people

// Right is what an operation asks of whoever calls it.
type Right string

// The rights there are. An operation names one; a role holds some.
const (
	Anyone Right = "anyone" // without signing in
	See    Right = "see"    // read jobs, print papers, train
	Work   Right = "work"   // open and change jobs
	Equip  Right = "equip"  // say where meters are reached
	Manage Right = "manage" // people, settings, what the workshop learns
)

// Role is what a person is in the workshop.
type Role struct {
	ID     string  // as stored
	Name   string  // as people say it
	Says   string  // what it is for, in one sentence
	Rights []Right // what it may do
}

// Owner is the role of whoever answers for the workshop: there is always one who is not suspended.
const Owner = "owner"

// Roles lists the roles, the one with most rights first.
func Roles() []Role {
	return []Role{
		{Owner, "owner", "Does all that a technician does, and looks after people, settings and backups.",
			[]Right{See, Work, Equip, Manage}},
		{"technician", "technician", "Opens jobs, measures, decides, repairs, proves and signs; says where meters are reached.",
			[]Right{See, Work, Equip}},
		{"trainee", "apprentice", "Does all that a technician does but say where meters are reached; the owner sees " +
			"how the training goes.", []Right{See, Work}},
		{"counter", "counter", "Reads every job and prints its papers, and changes none.", []Right{See}},
	}
}

// RoleOf finds a role by its id; the zero role, which may nothing, where there is none.
func RoleOf(id string) Role {
	for _, r := range Roles() {
		if r.ID == id {
			return r
		}
	}
	return Role{}
}

// May tells whether a role holds a right. Anyone is held by every role.
func (r Role) May(x Right) bool {
	if x == Anyone {
		return true
	}
	for _, y := range r.Rights {
		if x == y {
			return true
		}
	}
	return false
}
