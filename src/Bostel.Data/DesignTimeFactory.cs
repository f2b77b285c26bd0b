using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace Bostel.Data;

/// <summary>Lets the migration tool build the model without a server.</summary>
public sealed class DesignTimeFactory : IDesignTimeDbContextFactory<BostelContext>
{
    public BostelContext CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<BostelContext>().UseNpgsql("Host=127.0.0.1;Database=bostel").Options);
}
