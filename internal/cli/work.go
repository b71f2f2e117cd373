package cli

import (
	"context"
	"os"
	"runtime"

	"github.com/spf13/cobra"

	"wexo/internal/survey"
)

// WorkCommand is the command that a program gives itself to read repositories. Tests whose
// own program is started with it have to run it.
const WorkCommand = "read-repositories"

// newWork is a worker's side of survey.Workers. It is not meant for people.
func newWork(s Streams) *cobra.Command {
	return &cobra.Command{Use: WorkCommand, Short: "Read repositories for another process of this program", Hidden: true, Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			err := survey.Work(s.In, s.Out, func(text []byte) (survey.Doing, error) {
				folders, _ := catalogueFolders(text, ".")
				dirs, err := catalogueDirs(folders, true) // who started this process has checked them
				if err != nil {
					return nil, err
				}
				c, reader, err := readingKnowledge(dirs)
				if err != nil {
					return nil, err
				}
				rules, _, err := parseConfig(c, text, "the configuration", map[string]any{})
				return func(ctx context.Context, job survey.Job, begin func(string)) (survey.Said, error) {
					return survey.Do(ctx, reader, rules, job, begin)
				}, err
			})
			if err != nil {
				return failed("%v", err)
			}
			return nil
		}}
}

// workers are processes of this program that read repositories by the estate's rules.
func workers(rules []byte) (*survey.Workers, error) {
	self := "/proc/self/exe" // this very program, also where its file was replaced by a newer one
	if runtime.GOOS != "linux" {
		var err error
		if self, err = os.Executable(); err != nil {
			return nil, failed("a process that reads cannot be started: %v", err)
		}
	}
	return &survey.Workers{Command: []string{self, WorkCommand}, Rules: rules}, nil
}
