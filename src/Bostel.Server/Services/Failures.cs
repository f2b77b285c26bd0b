namespace Bostel.Server.Services;

/// <summary>What was asked for is not there (404).</summary>
public sealed class NotFoundException(string message) : Exception(message);

/// <summary>Somebody else changed it meanwhile, or it is being worked on (409).</summary>
public sealed class ConflictException(string message) : Exception(message);

/// <summary>Too many tries; to be told when to come back (429).</summary>
public sealed class TooManyTriesException(string message, TimeSpan wait) : Exception(message)
{
    public TimeSpan Wait { get; } = wait;
}
