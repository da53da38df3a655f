package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"corriente/internal/people"
	"corriente/internal/store"
)

// linkHolds is how long a link printed here can be used.
const linkHolds = 24 * time.Hour

// userCmd looks after people without the interface, for whoever is locked out of it.
func userCmd() *cobra.Command {
	var f serveFlags
	c := &cobra.Command{Use: "user", Short: "Look after people from the command line, whether the application runs or not"}
	c.PersistentFlags().StringVar(&f.data, "data", or("CORRIENTE_DATA", dataDir("workshop")), "folder of the application's own database")
	c.PersistentFlags().StringVar(&f.dsn, "dsn", os.Getenv("CORRIENTE_DSN"), "use this MariaDB instead of an own one")
	c.AddCommand(f.addUser(), f.listUsers(), f.resetUser(), f.suspendUser())
	return c
}

func (f *serveFlags) addUser() *cobra.Command {
	var name, role string
	c := &cobra.Command{Use: "add LOGIN", Short: "Add a person and print a link by which they choose a password",
		Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			login, err := people.CheckLogin(args[0])
			if err != nil {
				return errInput{err}
			}
			if name == "" {
				name = login
			}
			if name, err = people.CheckName(name); err != nil {
				return errInput{err}
			}
			r := people.RoleOf(role)
			if r.ID == "" {
				return errInput{fmt.Errorf("--role: %q is none of owner, technician, trainee, counter", role)}
			}
			return f.withStore(cmd.Context(), func(ctx context.Context, st *store.Store) error {
				u := store.User{ID: store.NewID(), Login: login, Name: name, Role: r.ID}
				if err := st.AddUser(ctx, u, byHand("Added "+name+" as "+r.Name+".")); err != nil {
					return told(err)
				}
				return link(ctx, st, u)
			})
		}}
	c.Flags().StringVar(&name, "name", "", "name as it stands on papers; without it the login")
	c.Flags().StringVar(&role, "role", "technician", "owner, technician, trainee (apprentice) or counter")
	return c
}

func (f *serveFlags) listUsers() *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List everybody", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		return f.withStore(cmd.Context(), func(ctx context.Context, st *store.Store) error {
			us, err := st.Users(ctx)
			if err != nil {
				return err
			}
			w := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', 0)
			fmt.Fprintln(w, "LOGIN\tNAME\tROLE\tSTANDS")
			for _, u := range us {
				stands := "may sign in"
				switch {
				case u.Suspended:
					stands = "suspended"
				case u.Hash == "":
					stands = "has chosen no password yet"
				}
				fmt.Fprintf(w, "%s\t%s\t%s\t%s\n", u.Login, u.Name, people.RoleOf(u.Role).Name, stands)
			}
			return w.Flush()
		})
	}}
}

func (f *serveFlags) resetUser() *cobra.Command {
	return &cobra.Command{Use: "reset LOGIN", Short: "Print a link by which a person chooses a new password",
		Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			return f.withUser(cmd.Context(), args[0], func(ctx context.Context, st *store.Store, u store.User) error {
				if u.Suspended {
					return errInput{fmt.Errorf("%s is suspended: corriente user suspend %s --back first", u.Name, u.Login)}
				}
				return link(ctx, st, u)
			})
		}}
}

func (f *serveFlags) suspendUser() *cobra.Command {
	var back bool
	c := &cobra.Command{Use: "suspend LOGIN",
		Short: "Keep a person from signing in and sign them out everywhere", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return f.withUser(cmd.Context(), args[0], func(ctx context.Context, st *store.Store, u store.User) error {
				says := "Suspended " + u.Name + "."
				if back {
					says = "Let " + u.Name + " in again."
				}
				if err := st.Suspend(ctx, u.ID, !back, byHand(says)); err != nil {
					return told(err)
				}
				fmt.Println(says)
				return nil
			})
		}}
	c.Flags().BoolVar(&back, "back", false, "let the person in again")
	return c
}

// byHand is a line of the record of what was done here.
func byHand(says string) store.Act { return store.Act{By: "command line", Kind: "people", Says: says} }

// told turns what the store refuses into what a person reads.
func told(err error) error {
	switch {
	case errors.Is(err, store.ErrTaken):
		return errInput{errors.New("somebody signs in by this name already: give another")}
	case errors.Is(err, store.ErrLastOwner):
		return errInput{errors.New("this is the last owner who can sign in: make somebody else owner first")}
	}
	return err
}

// withStore opens the data, whether the application runs or not.
func (f *serveFlags) withStore(ctx context.Context, do func(context.Context, *store.Store) error) error {
	cfg, stop, err := f.database(ctx)
	if err != nil {
		return err
	}
	defer stop()
	st, err := store.OpenOn(ctx, cfg)
	if err != nil {
		return err
	}
	defer st.Close()
	return do(ctx, st)
}

func (f *serveFlags) withUser(ctx context.Context, login string, do func(context.Context, *store.Store, store.User) error) error {
	return f.withStore(ctx, func(ctx context.Context, st *store.Store) error {
		u, err := st.UserByLogin(ctx, login)
		if errors.Is(err, store.ErrNotFound) {
			return errInput{fmt.Errorf("nobody signs in as %q: corriente user list says who does", login)}
		}
		if err != nil {
			return err
		}
		return do(ctx, st, u)
	})
}

// link prints how a person gets in.
func link(ctx context.Context, st *store.Store, u store.User) error {
	token, hash, err := people.NewToken()
	if err != nil {
		return err
	}
	if err := st.Invite(ctx, u.ID, hash, time.Now().Add(linkHolds),
		byHand("Made a link for "+u.Name+" to choose a password.")); err != nil {
		return err
	}
	fmt.Printf("%s opens the application's own address followed by the line below, within a day, and chooses a password:\n/join#%s\n",
		u.Name, token)
	return nil
}
