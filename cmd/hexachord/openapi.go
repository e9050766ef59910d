package main

import (
	"fmt"

	"github.com/spf13/cobra"

	"hexachord/server"
)

// openapiCommand is for the build: the front end's types are generated from what it prints.
func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "openapi",
		Short:  "Print the API's OpenAPI 3.1 description",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			spec, err := server.OpenAPI(version)
			if err != nil {
				return err
			}
			fmt.Fprintln(cmd.OutOrStdout(), string(spec))
			return nil
		},
	}
}

// constantsCommand is for the build: the front end's constants are what it prints.
func constantsCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "constants",
		Short:  "Print the core's fixed values as a TypeScript module",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			text, err := server.Constants()
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(text)
			return err
		},
	}
}
