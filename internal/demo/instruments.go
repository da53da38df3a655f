package demo

import (
	"context"

	"github.com/google/uuid"

	"corriente/core/meter"
	"corriente/internal/store"
)

// BenchFault is what is wrong with the machine on the demo's simulated bench: the
// fault of the job on the cider press lorry.
const BenchFault = "motor.brushes_worn=0.9ohm"

// Instruments puts the workshop's meters in place: two on the simulated bench,
// at the addresses it has this time, and a good one that is read by eye.
func Instruments(ctx context.Context, st *store.Store, meterAddr, clampAddr, scopeAddr string) error {
	fine := meter.Handheld()
	fine.DCVoltage = &meter.Accuracy{Percent: 0.1, Counts: 3, Resolution: 0.001}
	fine.Resistance = &meter.Accuracy{Percent: 0.3, Counts: 3, Resolution: 0.01}
	scope := meter.Instrument{Kind: "scope", DCCurrent: &meter.Accuracy{Percent: 3, Counts: 5, Resolution: 0.1}}
	for _, in := range []store.Instrument{
		{Name: "Bench meter", Address: meterAddr, Meter: meter.Handheld()},
		{Name: "Bench clamp", Address: clampAddr, Meter: meter.Clamp()},
		{Name: "Bench scope", Address: scopeAddr, Meter: scope},
		{Name: "Good meter", Meter: fine},
	} {
		in.ID = uuid.NewSHA1(uuid.NameSpaceOID, []byte("demo instrument "+in.Name))
		if was, err := st.Instrument(ctx, in.ID); err == nil {
			in.LeadsOhm, in.ZeroA, in.ZeroedAt = was.LeadsOhm, was.ZeroA, was.ZeroedAt
		}
		if err := st.PutInstrument(ctx, in); err != nil {
			return err
		}
	}
	return nil
}
