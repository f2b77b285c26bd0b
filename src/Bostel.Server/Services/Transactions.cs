using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Several statements that are carried out together or not at all.</summary>
public static class Transactions
{
    /// <summary>Carries out work in a transaction; after a lost connection it is begun anew, so the work must look at the database each time.</summary>
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

    public static Task InTransactionAsync(this BostelContext context, Func<Task> work, CancellationToken cancel = default) =>
        context.InTransactionAsync(async () =>
        {
            await work();
            return true;
        }, cancel);
}
