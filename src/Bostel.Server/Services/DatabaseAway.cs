using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace Bostel.Server.Services;

/// <summary>Tells a database that cannot be reached from work that failed.</summary>
public static class DatabaseAway
{
    // Classes of SQLSTATE (PostgreSQL documentation, appendix A): connection exception, operator intervention, insufficient resources.
    private static readonly string[] Classes = ["08", "57", "53"];

    public static bool Is(Exception exception)
    {
        for (Exception? e = exception; e is not null; e = e.InnerException)
        {
            if (e is PostgresException p ? Classes.Contains(p.SqlState[..2]) : e is NpgsqlException or RetryLimitExceededException
                or System.Net.Sockets.SocketException)
            {
                return true;
            }
        }

        return false;
    }
}
