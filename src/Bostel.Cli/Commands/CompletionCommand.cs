using System.CommandLine;

namespace Bostel.Cli.Commands;

/// <summary>Completion of commands, options and closed sets in a shell: the shell asks the parser, so nothing is listed twice.</summary>
internal static class CompletionCommand
{
    private const string Bash = """
        _bostel() {
            local IFS=$'\n'
            local words="$("${COMP_WORDS[0]}" "[suggest:$COMP_POINT]" "$COMP_LINE" 2>/dev/null)"
            COMPREPLY=($(compgen -W "$words" -- "${COMP_WORDS[COMP_CWORD]}"))
        }
        complete -o default -F _bostel bostel
        """;

    private const string Zsh = """
        _bostel() {
            compadd -- ${(f)"$("${words[1]}" "[suggest:$CURSOR]" "$BUFFER" 2>/dev/null)}
            _files
        }
        compdef _bostel bostel
        """;

    public static Command Build()
    {
        var shell = new Argument<string>("SHELL") { Description = "The shell." };
        shell.AcceptOnlyFromAmong("bash", "zsh");
        var command = new Command("completion", "Prints what a shell runs to complete bostel's words, as: source <(bostel completion bash)")
        {
            shell,
        };
        command.SetAction(parsed =>
        {
            Console.Out.WriteLine(parsed.GetValue(shell) == "zsh" ? Zsh : Bash);
            return ExitCode.Done;
        });
        return command;
    }
}
