package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
)

// mostToValidate bounds a file that is read whole, bytes: as many as the server takes.
const mostToValidate = 16 << 20

// validateCmd says whether a file is sound in the open format that it names.
func validateCmd() *cobra.Command {
	var format *string
	c := &cobra.Command{
		Use:   "validate FILE",
		Short: "Say whether a case or circuit file is sound, and if not what is wrong, where, and the mend",
		Args:  oneFile,
		RunE: func(_ *cobra.Command, args []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			v, err := validate(args[0])
			if err != nil {
				return errInput{fmt.Errorf("%s: %w", args[0], err)}
			}
			if *format == "json" {
				return writeJSON(os.Stdout, v)
			}
			_, err = fmt.Printf("%s: sound: %s\n", args[0], v.Says)
			return err
		},
	}
	format = formatFlag(c)
	return c
}

// validated is what a sound file is.
type validated struct {
	Format string `json:"format"`
	Says   string `json:"says"`
}

// validate reads a file by the format that it names.
func validate(path string) (*validated, error) {
	b, err := wholeFile(path)
	if err != nil {
		return nil, err
	}
	var head struct {
		Format string `json:"format"`
	}
	if err := json.Unmarshal(b, &head); err != nil {
		return nil, fmt.Errorf("this is no JSON (%w): case and circuit files are JSON objects", err)
	}
	switch head.Format {
	case casefile.Format:
		c, err := casefile.Read(bytes.NewReader(b))
		if err != nil {
			return nil, err
		}
		return &validated{head.Format, fmt.Sprintf("a case of %s with %s", c.Circuit.ID, pieces(len(c.Evidence)))}, nil
	case circuit.Format:
		c, err := circuit.Read(bytes.NewReader(b))
		if err != nil {
			return nil, err
		}
		if _, err := diagnose.NewAdviser(c); err != nil {
			return nil, err
		}
		return &validated{head.Format, fmt.Sprintf("the circuit %s with %d parts", c.ID, len(c.Stations))}, nil
	case "":
		return nil, fmt.Errorf(`/format: the file does not name its format: it is %q or %q`, casefile.Format, circuit.Format)
	}
	return nil, fmt.Errorf("/format: %q is not read here: %q and %q are", head.Format, casefile.Format, circuit.Format)
}

// wholeFile reads a file, or standard input for "-".
func wholeFile(path string) ([]byte, error) {
	in := os.Stdin
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return nil, fmt.Errorf("cannot be opened (%s): check the name", cause(err))
		}
		defer func() { _ = f.Close() }()
		in = f
	}
	b, err := io.ReadAll(io.LimitReader(in, mostToValidate+1))
	if err != nil {
		return nil, fmt.Errorf("cannot be read (%s)", cause(err))
	}
	if len(b) > mostToValidate {
		return nil, errors.New("larger than 16 MB: no case or circuit is")
	}
	return b, nil
}

func pieces(n int) string {
	if n == 1 {
		return "1 piece of evidence"
	}
	return fmt.Sprintf("%d pieces of evidence", n)
}
