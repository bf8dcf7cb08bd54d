package main

import (
	"errors"
	"fmt"
	"os"
	"strings"

	"wavekine/store"
	"wavekine/web/door"
)

// linkVerb makes a one-time link for a teacher, for the owner who has forgotten their own password.
var linkVerb = verb{name: "link", args: "E-MAIL", bare: true, says: "a one-time link by which a teacher sets a password (DATABASE_URL)", run: func(c *job) error {
	if len(c.args) != 1 {
		return errors.New("expected one e-mail")
	}
	st, err := open(c.ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	t, _, err := st.TeacherByEmail(c.ctx, strings.TrimSpace(c.args[0]), "")
	if errors.Is(err, store.ErrNotFound) {
		return fmt.Errorf("no account has the e-mail %q", c.args[0])
	}
	if err != nil {
		return err
	}
	token := store.NewSecret()
	if err := st.MakeLink(c.ctx, t.StudioID, t.ID, token, "", door.ResetFor); err != nil {
		return err
	}
	port := os.Getenv("PORT")
	if port == "" {
		port = "8080"
	}
	_, err = fmt.Fprintf(c.out, "For %s, once, within %s:\nhttp://127.0.0.1:%s/link/%s\n(or /link/... at the address at which the site is reached)\n", t.Name, door.ResetFor, port, token)
	return err
}}
