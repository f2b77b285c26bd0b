using Bostel.Core;
using Bostel.Data;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Bostel.Server.Services;

/// <summary>
/// Turns what went wrong into one clear sentence: 400 for input, 422 for input that
/// determines no answer, 404 for what is not there, 409 for a conflict, 429 for too many tries, 503
/// when the database is away.
/// </summary>
public sealed class ProblemHandler(IProblemDetailsService problems, ILogger<ProblemHandler> log) : IExceptionHandler
{
    public async ValueTask<bool> TryHandleAsync(HttpContext httpContext, Exception exception, CancellationToken cancellationToken)
    {
        var (status, detail) = exception switch
        {
            UndeterminedException e => (422, e.Message),
            BadInputException e => (400, e.Message),
            ConflictException e => (409, e.Message),
            NotFoundException e => (404, e.Message),
            TooManyTriesException e => (429, e.Message),
            DamagedFileException e => (500, e.Message),
            BadHttpRequestException e => (e.StatusCode, e.InnerException?.Message ?? e.Message),

            // Of what is kept by kind, a request named none.
            NotSupportedException e when Causes(e).Any(c => c is System.Text.Json.JsonException) || e.Source == "System.Text.Json" =>
                (400, "The request does not say of what kind something is."),
            DbUpdateException { InnerException: PostgresException { SqlState: "23505" } } =>
                (409, "That is there already; nothing was saved twice."),
            DbUpdateException { InnerException: PostgresException { SqlState: "23503" } } =>
                (400, "It refers to something that does not exist."),
            _ when Causes(exception).Any(e => e is PostgresException { SqlState: "22021" or "22P05" }) =>
                (400, "A text holds a character that cannot be stored."),
            _ when Causes(exception).Any(e => e is PostgresException { SqlState: "53100" }) =>
                (507, "The database's disk is full; nothing was saved. Free some space and try again."),
            _ when Causes(exception).Any(e => e is NpgsqlException or TimeoutException) =>
                (503, "The database cannot be reached just now; nothing was saved. Try again in a moment."),
            _ => (500, "Something went wrong inside the server; the log says more."),
        };
        if (exception is OperationCanceledException && httpContext.RequestAborted.IsCancellationRequested)
        {
            return true;
        }

        if (status >= 500)
        {
            log.LogError(exception, "Request {Path} failed", httpContext.Request.Path);
        }

        if (exception is TooManyTriesException tries)
        {
            httpContext.Response.Headers.RetryAfter = ((int)Math.Ceiling(tries.Wait.TotalSeconds))
                .ToString(System.Globalization.CultureInfo.InvariantCulture);
        }

        httpContext.Response.StatusCode = status;
        return await problems.TryWriteAsync(
            new() { HttpContext = httpContext, ProblemDetails = { Status = status, Detail = detail, Title = detail } });
    }

    /// <summary>The exception and all it was caused by: retries wrap the database's own error.</summary>
    private static IEnumerable<Exception> Causes(Exception exception)
    {
        for (Exception? e = exception; e is not null; e = e.InnerException)
        {
            yield return e;
        }
    }
}
