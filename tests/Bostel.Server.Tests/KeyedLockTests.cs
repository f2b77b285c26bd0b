using Bostel.Server.Services;

namespace Bostel.Server.Tests;

public class KeyedLockTests
{
    [Fact]
    public async Task AKeyIsHeldByOneAtATimeAndOthersDoNotWait()
    {
        var locks = new KeyedLock();
        var first = await locks.TakeAsync("a", TestContext.Current.CancellationToken);
        using var other = await locks.TakeAsync("b", TestContext.Current.CancellationToken);
        var second = locks.TakeAsync("a", TestContext.Current.CancellationToken);
        Assert.False(second.IsCompleted);
        first.Dispose();
        (await second).Dispose();
    }

    [Fact]
    public async Task WhoGivesUpWaitingLeavesTheKeyToTheOthers()
    {
        var locks = new KeyedLock();
        var first = await locks.TakeAsync("a", TestContext.Current.CancellationToken);
        using var gaveUp = new CancellationTokenSource();
        var second = locks.TakeAsync("a", gaveUp.Token);
        var third = locks.TakeAsync("a", TestContext.Current.CancellationToken);
        await gaveUp.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => second);
        first.Dispose();
        (await third).Dispose();
    }

    [Fact]
    public async Task ManyAtOnceNeverMeet()
    {
        var locks = new KeyedLock();
        var inside = 0;
        await Task.WhenAll(Enumerable.Range(0, 200).Select(async _ =>
        {
            using var held = await locks.TakeAsync("a", TestContext.Current.CancellationToken);
            Assert.Equal(1, Interlocked.Increment(ref inside));
            await Task.Yield();
            Interlocked.Decrement(ref inside);
        }));
    }
}
