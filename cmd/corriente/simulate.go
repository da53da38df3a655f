package main

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"corriente/core/circuit"
	"corriente/internal/bench"
)

func simulateCmd() *cobra.Command {
	var id, ports string
	var faults []string
	var seed uint64
	var spread, leads float64
	var line bool
	c := &cobra.Command{
		Use:   "simulate --circuit ID [--fault F]... [--seed S]",
		Short: "Open a meter, a clamp and a scope on loopback ports that probe a simulated machine",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := circuit.Family(id)
			if err != nil {
				return errInput{err}
			}
			o := bench.Options{Circuit: f, Faults: faults, Seed: seed, Spread: spread, Leads: leads, Line: line}
			list := strings.Split(ports, ",")
			if len(list) != 3 {
				return errInput{fmt.Errorf("--ports %s: give three, for meter, clamp and scope, 0 for any", ports)}
			}
			for i, p := range list {
				n, err := strconv.Atoi(strings.TrimSpace(p))
				if err != nil || n < 0 || n > 65535 {
					return errInput{fmt.Errorf("--ports %s: %q is no port; 0 to 65535", ports, p)}
				}
				o.Ports[i] = n
			}
			if !(spread >= 0 && spread <= 1) || !(leads >= 0 && leads <= 100) {
				return errInput{fmt.Errorf("--spread goes from 0 to 1, --leads from 0 to 100 ohms")}
			}
			b, err := bench.New(cmd.Context(), o)
			if err != nil {
				return errInput{err}
			}
			defer b.Close()
			m, cl, sc := b.Addrs()
			fmt.Printf("meter %s\nclamp %s\nscope %s\n", m, cl, sc)
			if line {
				fmt.Printf("line  %s\nSIM:DIAL DCV, OHM, DCA … turns the dial of the meter on this serial line.\n", b.Line())
			}
			fmt.Println("SCPI over TCP; SIM:STAT crank, SIM:PROB bat_pos,bat_neg and SIM:THR pos_cable say what is " +
				"switched on and where probes and clamp are. Ctrl-C ends it.")
			<-cmd.Context().Done()
			return nil
		},
	}
	c.Flags().StringVar(&id, "circuit", "starter", "circuit family")
	c.Flags().StringArrayVar(&faults, "fault", nil, "a hidden fault, such as motor.seized or pos_clamp.high_resistance=0.021ohm")
	c.Flags().Uint64Var(&seed, "seed", 1, "the same seed gives the same machine")
	c.Flags().Float64Var(&spread, "spread", 0.1, "how far true values lie from the nominal ones, log standard deviation")
	c.Flags().Float64Var(&leads, "leads", 0.2, "resistance of the meter's leads, ohms")
	c.Flags().BoolVar(&line, "line", false, "hang a meter that reports by itself on a serial line as well")
	c.Flags().StringVar(&ports, "ports", "0,0,0", "ports of meter, clamp and scope")
	return c
}
