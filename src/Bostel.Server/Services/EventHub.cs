using System.Collections.Concurrent;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Threading.Channels;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Bostel.Server.Services;

/// <summary>Something changed: which kind of thing and which one.</summary>
public sealed record ChangeEvent(string Kind, Guid Id, Guid Subject)
{
    /// <summary>Of a task: how far it is and what it is doing.</summary>
    public double? Share { get; init; }

    public string? What { get; init; }
}

/// <summary>
/// Carries changes from any server or worker process to every browser: PostgreSQL LISTEN/NOTIFY in, server-sent events out.
/// </summary>
public sealed class EventHub(NpgsqlDataSource source, ILogger<EventHub> log) : BackgroundService
{
    /// <summary>The kind of the event that ends the open sign-ins of an account.</summary>
    public const string AccountChanged = "account";

    private const string ChannelName = "bostel";
    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(15);
    private readonly ConcurrentDictionary<Guid, Channel<ChangeEvent>> _listeners = new();

    public static Task NotifyAsync(DbContext context, ChangeEvent change, CancellationToken cancel = default) =>
        context.Database.ExecuteSqlAsync($"SELECT pg_notify({ChannelName}, {JsonSerializer.Serialize(change)})", cancel);

    /// <summary>
    /// What changes from now on, for one browser. It begins at once and beats every 15 seconds, so that neither end nor a proxy between
    /// takes it for dead; it ends when the sign-in of the account does.
    /// </summary>
    public async IAsyncEnumerable<SseItem<ChangeEvent?>> ListenAsync(Guid account, [EnumeratorCancellation] CancellationToken cancel)
    {
        var id = Guid.NewGuid();
        var channel = Channel.CreateBounded<ChangeEvent>(new BoundedChannelOptions(500) { FullMode = BoundedChannelFullMode.DropOldest });
        _listeners[id] = channel;
        try
        {
            yield return new(null, "beat");
            while (!cancel.IsCancellationRequested)
            {
                using var beat = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                beat.CancelAfter(Beat);
                ChangeEvent? change = null;
                try
                {
                    change = await channel.Reader.ReadAsync(beat.Token);
                }
                catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
                {
                    // Nothing for a while: a beat is sent.
                }

                if (change is { Kind: AccountChanged })
                {
                    if (change.Id == account)
                    {
                        yield break;
                    }
                }
                else
                {
                    yield return new(change, change is null ? "beat" : "change");
                }
            }
        }
        finally
        {
            _listeners.TryRemove(id, out _);
        }
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(stoppingToken);
                connection.Notification += (_, e) => Spread(e.Payload);
                await using (var listen = new NpgsqlCommand($"LISTEN {ChannelName}", connection))
                {
                    await listen.ExecuteNonQueryAsync(stoppingToken);
                }

                while (true)
                {
                    await connection.WaitAsync(stoppingToken);
                }
            }
            catch (Exception e) when (e is NpgsqlException or IOException or TimeoutException)
            {
                log.LogWarning("The database connection for events was lost; trying again: {Reason}", e.Message);
                await Task.Delay(1000, stoppingToken);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }

    /// <summary>Tells the browsers that listen to this process.</summary>
    public void Spread(ChangeEvent change)
    {
        foreach (var listener in _listeners.Values)
        {
            listener.Writer.TryWrite(change);
        }
    }

    private void Spread(string payload)
    {
        if (JsonSerializer.Deserialize<ChangeEvent>(payload) is { } change)
        {
            Spread(change);
        }
    }
}
