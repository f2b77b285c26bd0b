using Bostel.Data.Register;
using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Data;

/// <summary>The database.</summary>
public sealed class BostelContext(DbContextOptions<BostelContext> options) : DbContext(options), IDataProtectionKeyContext
{
    public DbSet<Part> Parts => Set<Part>();
    public DbSet<Nominal> Nominals => Set<Nominal>();
    public DbSet<Plan> Plans => Set<Plan>();
    public DbSet<PlanRevision> PlanRevisions => Set<PlanRevision>();
    public DbSet<Piece> Pieces => Set<Piece>();
    public DbSet<Run> Runs => Set<Run>();
    public DbSet<Outcome> Outcomes => Set<Outcome>();
    public DbSet<CharacteristicRow> Characteristics => Set<CharacteristicRow>();
    public DbSet<Report> Reports => Set<Report>();
    public DbSet<RegisterEntry> RegisterEntries => Set<RegisterEntry>();
    public DbSet<SigningKey> SigningKeys => Set<SigningKey>();
    public DbSet<Layout> Layouts => Set<Layout>();
    public DbSet<Job> Jobs => Set<Job>();
    public DbSet<AuditEntry> Audit => Set<AuditEntry>();
    public DbSet<Blob> Blobs => Set<Blob>();
    public DbSet<Counter> Counters => Set<Counter>();
    public DbSet<Account> Accounts => Set<Account>();
    public DbSet<SignInAttempt> SignInAttempts => Set<SignInAttempt>();

    /// <summary>The keys that sign-ins are sealed with, shared by all servers.</summary>
    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();
    public DbSet<BlobChunk> BlobChunks => Set<BlobChunk>();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.Entity<Part>(e =>
        {
            e.HasIndex(p => new { p.Number, p.Revision }).IsUnique();
            e.HasOne(p => p.Nominal).WithMany().HasForeignKey(p => p.NominalId).OnDelete(DeleteBehavior.SetNull);
        });
        builder.Entity<Plan>(e =>
        {
            e.HasIndex(p => p.PartId).IsUnique();
            e.Property(p => p.Version).IsRowVersion();
            e.HasOne<Part>().WithMany().HasForeignKey(p => p.PartId);
        });
        builder.Entity<PlanRevision>(e =>
        {
            e.HasIndex(r => new { r.PlanId, r.Number }).IsUnique();
            e.Property(r => r.Body).HasColumnType("text");
            e.HasOne<Plan>().WithMany().HasForeignKey(r => r.PlanId);
        });
        builder.Entity<Piece>(e =>
        {
            e.HasIndex(p => new { p.PartId, p.Serial }).IsUnique();
            e.HasOne(p => p.Part).WithMany().HasForeignKey(p => p.PartId);
            e.HasOne(p => p.Run).WithMany().HasForeignKey(p => p.RunId).OnDelete(DeleteBehavior.SetNull);
        });
        builder.Entity<Outcome>(e =>
        {
            e.HasKey(o => o.Key);
            e.Property(o => o.Kind).HasConversion<string>();
            e.Property(o => o.Body).HasColumnType("text");
        });
        builder.Entity<Run>(e =>
        {
            e.HasIndex(r => new { r.PieceId, r.Key }).IsUnique();
            e.Property(r => r.Verdict).HasConversion<string>();
            e.HasMany(r => r.Characteristics).WithOne().HasForeignKey(c => c.RunId);
        });
        builder.Entity<CharacteristicRow>(e =>
        {
            e.HasIndex(c => new { c.RunId, c.No }).IsUnique();
            e.Property(c => c.Verdict).HasConversion<string>();
        });
        builder.Entity<Report>(e =>
        {
            e.HasIndex(r => r.Number).IsUnique();
            e.HasIndex(r => new { r.PieceId, r.Key }).IsUnique();
            e.HasIndex(r => r.JobId).IsUnique();
            e.Property(r => r.Verdict).HasConversion<string>();
            e.HasOne(r => r.Piece).WithMany().HasForeignKey(r => r.PieceId);
            e.HasOne<Run>().WithMany().HasForeignKey(r => r.RunId).OnDelete(DeleteBehavior.Restrict);
        });
        builder.Entity<RegisterEntry>(e =>
        {
            e.HasKey(r => r.Number);
            e.Property(r => r.Number).ValueGeneratedNever();
            e.Property(r => r.Event).HasConversion<string>();
            e.Property(r => r.Content).HasColumnType("text");
            e.HasIndex(r => r.Report);
        });
        builder.Entity<Counter>(e =>
        {
            e.HasKey(c => c.Name);
            e.HasData(new Counter { Name = Counter.Reports, Next = 1001 }, new Counter { Name = Counter.Register, Next = 1 });
        });
        builder.Entity<Layout>(e =>
        {
            e.HasKey(l => l.Name);
            e.Property(l => l.Body).HasColumnType("text");
            e.HasIndex(l => l.ForNewParts).IsUnique().HasFilter("\"ForNewParts\"");
        });
        builder.Entity<Job>(e =>
        {
            e.HasIndex(j => j.SubjectId);
            e.HasIndex(j => j.State);
            e.HasIndex(j => j.Claim).IsUnique().HasFilter("\"State\" IN ('Queued', 'Running')");
            e.Property(j => j.Kind).HasConversion<string>();
            e.Property(j => j.State).HasConversion<string>();
        });
        builder.Entity<Account>(e =>
        {
            e.HasIndex(a => a.NameKey).IsUnique();
            e.Property(a => a.Role).HasConversion<string>();
        });
        builder.Entity<SignInAttempt>(e =>
        {
            e.HasIndex(a => new { a.Address, a.At });
            e.HasIndex(a => new { a.NameKey, a.At });
        });
        builder.Entity<AuditEntry>().HasIndex(a => a.At);
        builder.Entity<Blob>().HasKey(b => b.Sha);
        builder.Entity<BlobChunk>(e =>
        {
            e.HasKey(c => new { c.Sha, c.Index });
            e.HasOne<Blob>().WithMany().HasForeignKey(c => c.Sha);
        });
    }
}
