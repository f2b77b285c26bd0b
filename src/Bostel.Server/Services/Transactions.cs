using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Several statements that are carried out together or not at all.</summary>
public static class Transactions
{
    /// <summary>
    /// Carries out work in a transaction; after a lost connection it is begun anew, so the work must look at the database each time.
    /// </summary>
    public static Task<T> InTransactionAsync<T>(this BostelContext context, Func<Task<T>> work, CancellationToken cancel = default) =>
        context.Database.CreateExecutionStrategy().ExecuteAsync(async () =>
        {
            context.ChangeTracker.Clear();
            await using var transaction = await context.Database.BeginTransactionAsync(cancel);
            var result = await work();
            await context.SaveChangesAsync(cancel);
            await transaction.CommitAsync(cancel);
            return result;
        });

    /// <summary>Inside a job's transaction: makes sure that the job is still this process's.</summary>
    /// <param name="stillMine">Null outside of jobs.</param>
    /// <exception cref="OperationCanceledException">Another process has it, or it was cancelled.</exception>
    public static async Task RequireAsync(Func<Task<bool>>? stillMine)
    {
        if (stillMine is not null && !await stillMine())
        {
            throw new OperationCanceledException("The job is no longer this process's.");
        }
    }

    public static Task InTransactionAsync(this BostelContext context, Func<Task> work, CancellationToken cancel = default) =>
        context.InTransactionAsync(async () =>
        {
            await work();
            return true;
        }, cancel);
}
