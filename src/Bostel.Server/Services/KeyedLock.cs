namespace Bostel.Server.Services;

/// <summary>One lock for each key, there as long as somebody holds it or waits for it. Safe for concurrent use.</summary>
public sealed class KeyedLock
{
    private readonly Dictionary<string, Gate> _gates = [];

    /// <summary>Waits until nobody else holds the key.</summary>
    /// <returns>Lets go of the key when disposed.</returns>
    public async Task<IDisposable> TakeAsync(string key, CancellationToken cancel = default)
    {
        Gate gate;
        lock (_gates)
        {
            gate = _gates.TryGetValue(key, out var there) ? there : _gates[key] = new();
            gate.Users++;
        }

        try
        {
            await gate.Open.WaitAsync(cancel);
        }
        catch
        {
            Leave(key, gate);
            throw;
        }

        return new Held(this, key, gate);
    }

    private void Leave(string key, Gate gate)
    {
        lock (_gates)
        {
            if (--gate.Users == 0)
            {
                _gates.Remove(key);
                gate.Open.Dispose();
            }
        }
    }

    private sealed class Gate
    {
        public SemaphoreSlim Open { get; } = new(1, 1);
        public int Users { get; set; }
    }

    private sealed class Held(KeyedLock owner, string key, Gate gate) : IDisposable
    {
        public void Dispose()
        {
            gate.Open.Release();
            owner.Leave(key, gate);
        }
    }
}
