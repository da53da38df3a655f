package web_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/testdb"
	"corriente/internal/web"
)

// keptIn says in which columns a text of the API is kept, by schema and field; "" where it
// is kept in a document that has no limit of its own, or nowhere. A field that is new and
// has a limit must be added here, or the test fails.
var keptIn = map[string]string{
	"NewLine.text": "strip_items.text", "NewLine.at": "", "LineChange.at": "", "DecideIn.at": "", "WorkIn.at": "",
	"ProofIn.at": "", "LineChange.text": "strip_items.text", "LineChange.explained": "strip_items.explained",
	"LineChange.drop_photo": "", "LineChange.photo": "", "Mark.photo": "",
	"CalculateInBody.job": "", "CalculateInBody.part": "", "Compare.station": "", "IntakeRequest.text": "", "PostSignInInBody.password": "",
	"JobChange.acknowledge": "", "JobChange.controller": "", "JobChange.history": "", "OpenJobInBody.history": "",
	"JobChange.complaint": "jobs.complaint", "OpenJobInBody.complaint": "jobs.complaint",
	"OpenJobInBody.circuit": "jobs.circuit outcomes.circuit fault_sums.circuit",
	"OpenJobInBody.kind": "machines.kind outcomes.machine_kind fault_sums.machine_kind " +
		"profiles.machine_kind code_tables.machine_kind",
	"OpenJobInBody.new_machine": "machines.name",
	"MachineIn.name":            "machines.name", "MachineIn.kind": "machines.kind outcomes.machine_kind " +
		"fault_sums.machine_kind profiles.machine_kind code_tables.machine_kind", "MachineIn.place": "machines.place",
	"MachineIn.note": "machines.note",
	"CostsIn.note":   "job_costs.note", "DecideIn.label": "decisions.label",
	"DecideIn.option": "decisions.option_id outcomes.option_id", "DecideIn.reason": "decisions.reason",
	"DecideIn.set_aside": "decisions.set_aside",
	"DecideIn.station":   "decisions.station outcomes.station", "DecideIn.who": "decisions.who", "WorkIn.decision": "",
	"WorkIn.station": "repairs.station", "WorkIn.what": "repairs.what", "RewordRequest.what": "repairs.what",
	"ProofIn.counter": "proofs.counter", "ProofIn.remark": "proofs.remark", "ProofIn.signed": "proofs.signed",
	"TickInBody.value": "proof_ticks.value",
	"Wishes.run_on":    "", "Wishes.until": "", "Terms.guarantee": "", "Terms.currency": "",
	"Edit.after": "", "Edit.id": "", "Edit.kind": "", "Edit.label": "", "Edit.state": "", "Mark.colour": "",
	"Mark.connector": "", "Mark.fuse": "", "Mark.pin": "", "Mark.place": "",
	"Evidence.condition": "evidence.circumstance", "Evidence.from": "evidence.node_from",
	"Evidence.to": "evidence.node_to", "Evidence.through": "evidence.through", "Evidence.instrument": "evidence.instrument",
	"Evidence.leads": "evidence.leads_text", "Evidence.measure": "evidence.measure",
	"Evidence.observe": "evidence.observe", "Evidence.outcome": "evidence.outcome", "Evidence.state": "evidence.state",
	"Evidence.symptom": "evidence.symptom", "Evidence.taken_at": "",
	"Evidence.uncertainty": "evidence.uncertainty_text", "Evidence.value": "evidence.value_text",
	"InstrumentView.address": "", "InstrumentView.name": "instruments.name", "JobNote.text": "job_notes.text",
	"ParameterIn.name": "", "PlateIn.power": "", "PutScheduleInBody.person": "",
	"PutScheduleInBody.bench": "jobs.bench", "PutWaitInBody.note": "job_waits.note",
	"PlateIn.voltage": "", "PlateIn.current": "", "PlateIn.speed": "", "ParameterIn.size": "", "ParameterIn.value": "",
	"Put_craft_noteRequest.text": "", "Put_craft_noteRequest.words": "", "PostSignInInBody.login": "users.login",
	"SpecIn.from": "", "SpecIn.high": "", "SpecIn.low": "", "SpecIn.to": "",
	"Begin.circuit": "", "Begin.exercise": "", "DrilledInBody.circuit": "", "DrilledInBody.kind": "drills.kind",
	"SupplierInBody.address": "settings.value", "TraceView.name": "traces.name",
	// Names and logins are shortened to less by package people, which says so; secrets are kept as hashes.
	"AddPersonInBody.login": "", "AddPersonInBody.name": "", "Change_nameRequest.name": "",
	"ChangePersonInBody.name": "", "AdmitDeviceInBody.name": "", "SetupIn.login": "", "SetupIn.name": "",
	"AcceptInBody.password": "", "AcceptInBody.token": "", "LinkIn.token": "", "Change_passwordRequest.new": "",
	"Change_passwordRequest.old": "", "Change_pinRequest.password": "", "Change_pinRequest.pin": "",
	"SetupIn.code": "", "SetupIn.password": "", "SignInByPinInBody.pin": "",
	"PostSignInInBody.code": "", "Set_factorRequest.code": "", "PasswordIn.password": "",
	"JobChange.cannot_reach": "", "JobChange.can_reach": "", "MachineIn.revision": "",
	"Settings.address": "settings.value", "Settings.currency": "settings.value",
	"Settings.foot": "settings.value", "Settings.name": "settings.value",
	"Settings.time_zone": "settings.value", "Settings.logo": "settings.value",
}

type schemaDoc struct {
	Ref                  string               `json:"$ref"`
	Type                 any                  `json:"type"`
	MaxLength            *int                 `json:"maxLength"`
	Properties           map[string]schemaDoc `json:"properties"`
	Items                *schemaDoc           `json:"items"`
	AdditionalProperties json.RawMessage      `json:"additionalProperties"`
}

// What the API lets in fits where it is kept: no text that passes its check ends in an error
// of the database.
func TestLimitsOfAPIAndDatabaseAgree(t *testing.T) {
	b, err := web.Document()
	require.NoError(t, err)
	var doc struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
			RequestBody *struct {
				Content map[string]struct {
					Schema schemaDoc `json:"schema"`
				} `json:"content"`
			} `json:"requestBody"`
		} `json:"paths"`
		Components struct {
			Schemas map[string]schemaDoc `json:"schemas"`
		} `json:"components"`
	}
	require.NoError(t, json.Unmarshal(b, &doc))
	limits := map[string]int{}
	visited := map[string]bool{}
	var walk func(s schemaDoc, name string)
	walk = func(s schemaDoc, name string) {
		if s.Ref != "" {
			n := s.Ref[strings.LastIndex(s.Ref, "/")+1:]
			if !visited[n] {
				visited[n] = true
				walk(doc.Components.Schemas[n], n)
			}
			return
		}
		if s.MaxLength != nil {
			limits[name] = *s.MaxLength
		}
		for k, p := range s.Properties {
			walk(p, name+"."+k)
		}
		if s.Items != nil {
			walk(*s.Items, name)
		}
		var more schemaDoc
		if json.Unmarshal(s.AdditionalProperties, &more) == nil {
			walk(more, name)
		}
	}
	for _, ops := range doc.Paths {
		for method, op := range ops {
			if op.RequestBody != nil && method != "get" {
				for _, c := range op.RequestBody.Content {
					walk(c.Schema, op.OperationID)
				}
			}
		}
	}
	require.Greater(t, len(limits), 50)
	st := testdb.Open(t)
	rows, err := st.DB.QueryContext(t.Context(),
		"SELECT CONCAT(table_name, '.', column_name), character_maximum_length FROM information_schema.columns "+
			"WHERE table_schema = DATABASE() AND character_maximum_length IS NOT NULL")
	require.NoError(t, err)
	defer rows.Close()
	columns := map[string]int{}
	for rows.Next() {
		var name string
		var n int
		require.NoError(t, rows.Scan(&name, &n))
		columns[name] = n
	}
	require.NoError(t, rows.Err())
	for field, limit := range limits {
		where, ok := keptIn[field]
		if !assert.True(t, ok, "say in keptIn where %s is kept", field) {
			continue
		}
		for _, c := range strings.Fields(where) {
			if assert.Contains(t, columns, c, field) {
				assert.GreaterOrEqual(t, columns[c], limit, fmt.Sprintf("%s lets %d letters in, %s holds fewer", field, limit, c))
			}
		}
	}
}
