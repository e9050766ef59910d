package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"hexachord/service"
)

func passphraseCommand() *cobra.Command {
	var data string
	var remove bool
	cmd := &cobra.Command{
		Use: "passphrase",
		Example: `  hexachord passphrase
  hexachord passphrase --data ./bench < passphrase.txt
  hexachord passphrase --remove`,
		Short: "Set the passphrase that other machines sign in with",
		Long: `Sets the passphrase of a data folder. A bench that serves on another address than this machine's
own (--addr 0.0.0.0:8460) asks for it; on 127.0.0.1 nobody is asked. It is kept as an Argon2id hash.
Who has signed in stays so until the bench is started anew.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if remove {
				if err := service.SetPassphrase(data, ""); err != nil {
					return err
				}
				fmt.Fprintln(cmd.OutOrStdout(), "There is no passphrase any more: the bench serves this machine alone.")
				return nil
			}
			passphrase, err := readPassphrase(cmd.InOrStdin(), cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			if passphrase == "" { // would take it away
				return service.ErrPassphrase
			}
			if err := service.SetPassphrase(data, passphrase); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "The passphrase of %s is set.\n", data)
			return nil
		},
	}
	dataFlag(cmd, &data)
	cmd.Flags().BoolVar(&remove, "remove", false, "take the passphrase away")
	return cmd
}

// readPassphrase asks twice at a terminal, unseen; from anything else it reads a line.
func readPassphrase(in io.Reader, words io.Writer) (string, error) {
	f, ok := in.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		line, err := bufio.NewReader(io.LimitReader(in, 4096)).ReadString('\n')
		if err != nil && !errors.Is(err, io.EOF) {
			return "", err
		}
		return strings.TrimRight(line, "\r\n"), nil
	}
	var said [2]string
	for i, ask := range []string{"Passphrase: ", "The same again: "} {
		fmt.Fprint(words, ask)
		text, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(words)
		if err != nil {
			return "", err
		}
		said[i] = string(text)
	}
	if said[0] != said[1] {
		return "", errors.New("the two are not the same; nothing was changed")
	}
	return said[0], nil
}
