using System.CommandLine;
using Bostel.Core;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Bostel.Cli;

/// <summary>The server's database, for the few commands that need it.</summary>
internal static class Register
{
    public static Option<string?> Data() => new("--data") { Description = "The server's folder; 'var' beside this program without one." };

    /// <exception cref="BadInputException">No database is named, or it cannot be reached.</exception>
    public static async Task<int> WithAsync(string? data, Func<BostelContext, Task<int>> act, CancellationToken cancel)
    {
        await using var context = new BostelContext(new DbContextOptionsBuilder<BostelContext>().UseNpgsql(Connection(data)).Options);
        try
        {
            if (!await context.Database.CanConnectAsync(cancel))
            {
                throw new BadInputException("The database cannot be reached: is the server running?");
            }

            return await act(context);
        }
        catch (PostgresException e) when (e.SqlState == "42P01")
        {
            throw new BadInputException("The database has no tables yet: start the server once.", e);
        }
    }

    private static string Connection(string? data)
    {
        if (data is null && Environment.GetEnvironmentVariable("Bostel__Database") is { Length: > 0 } named)
        {
            return named;
        }

        var file = Path.Combine(data ?? Beside(), "secrets", "connection");
        return File.Exists(file)
            ? File.ReadAllText(file).Trim()
            : throw new BadInputException(
                $"{file}: there is no such file; name the server's folder with --data, or the database in Bostel__Database.");
    }

    /// <summary>The folder 'var' at the root of the repository that the program was built in.</summary>
    private static string Beside()
    {
        for (var folder = new DirectoryInfo(AppContext.BaseDirectory); folder is not null; folder = folder.Parent)
        {
            if (File.Exists(Path.Combine(folder.FullName, "Bostel.slnx")))
            {
                return Path.Combine(folder.FullName, "var");
            }
        }

        return "var";
    }
}
