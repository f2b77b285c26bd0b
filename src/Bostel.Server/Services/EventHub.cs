using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Threading.Channels;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Bostel.Server.Services;

/// <summary>Something changed: which kind of thing and which one.</summary>
public sealed record ChangeEvent(string Kind, Guid Id, Guid Subject);

/// <summary>Carries changes from any server or worker process to every browser: PostgreSQL LISTEN/NOTIFY in, server-sent events out.</summary>
public sealed class EventHub(NpgsqlDataSource source, ILogger<EventHub> log) : BackgroundService
{
    private const string ChannelName = "bostel";
    private readonly ConcurrentDictionary<Guid, Channel<ChangeEvent>> _listeners = new();

    public static Task NotifyAsync(DbContext context, ChangeEvent change, CancellationToken cancel = default) =>
        context.Database.ExecuteSqlAsync($"SELECT pg_notify({ChannelName}, {JsonSerializer.Serialize(change)})", cancel);

    public async IAsyncEnumerable<ChangeEvent> ListenAsync([EnumeratorCancellation] CancellationToken cancel)
    {
        var id = Guid.NewGuid();
        var channel = Channel.CreateBounded<ChangeEvent>(new BoundedChannelOptions(500) { FullMode = BoundedChannelFullMode.DropOldest });
        _listeners[id] = channel;
        try
        {
            await foreach (var change in channel.Reader.ReadAllAsync(cancel))
            {
                yield return change;
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

    private void Spread(string payload)
    {
        if (JsonSerializer.Deserialize<ChangeEvent>(payload) is { } change)
        {
            foreach (var listener in _listeners.Values)
            {
                listener.Writer.TryWrite(change);
            }
        }
    }
}
