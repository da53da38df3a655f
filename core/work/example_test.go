package work_test

import (
	"corriente/core/work"
	"fmt"
)

// What was decided, done and proved makes a job's repairs.
func ExampleRepairs() {
	rs := work.Repairs([]work.Decision{{ID: "d1", Option: "brushes", Stations: []string{"motor"}}}, nil, nil)
	fmt.Println(rs[0].Stations, rs[0].Status, work.ToDo(rs))
	rs = work.Repairs([]work.Decision{{ID: "d1", Option: "brushes", Stations: []string{"motor"}}},
		[]work.Done{{ID: "w1", Decision: "d1", Station: "motor"}}, nil)
	fmt.Println(rs[0].Status, work.ToDo(rs))
	// Output:
	// [motor] chosen 0
	// done -1
}

// A part that was put right while measuring is a repair that nobody decided.
func ExampleToProve() {
	rs := work.Repairs(nil, []work.Done{{ID: "w1", Station: "neg_clamp", After: 3}}, nil)
	fmt.Println(rs[0].Decision, work.ToProve(rs))
	// Output:
	// -1 [0]
}
