using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Data;
using Bostel.Data.Register;
using Bostel.Reports;
using Bostel.Server;
using Bostel.Server.Demo;
using Bostel.Server.Endpoints;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Serilog;

// Jobs compute on the pool's threads, all cores of them; requests must not wait until one is given up.
ThreadPool.SetMinThreads(64, 64);
var builder = WebApplication.CreateBuilder(args);
builder.Host.UseSerilog((_, log) => log.MinimumLevel.Information().MinimumLevel.Override("Microsoft", Serilog.Events.LogEventLevel.Warning)
    .MinimumLevel.Override("Microsoft.EntityFrameworkCore.Database.Command", Serilog.Events.LogEventLevel.Fatal)
    .WriteTo.Console(formatProvider: System.Globalization.CultureInfo.InvariantCulture));
builder.WebHost.ConfigureKestrel(k =>
{
    k.Limits.MaxRequestBodySize = RequestGuards.MostBody;
    k.AddServerHeader = false;
});

var connection = builder.Configuration["Bostel:Database"] ?? "Host=127.0.0.1;Port=5311;Database=bostel;Username=bostel";
var data = builder.Configuration["Bostel:Data"] ?? Path.Combine(AppContext.BaseDirectory, "var");
data = Path.GetFullPath(data);
var services = builder.Services;
services.AddSingleton(NpgsqlDataSource.Create(connection));
services.AddPooledDbContextFactory<BostelContext>(
    (provider, o) => o.UseNpgsql(provider.GetRequiredService<NpgsqlDataSource>(), n => n.EnableRetryOnFailure(3)));
services.AddScoped(provider => provider.GetRequiredService<IDbContextFactory<BostelContext>>().CreateDbContext());
services.AddDataProtection().PersistKeysToDbContext<BostelContext>().SetApplicationName("Bostel");
SignInCookie.Add(services);
Roles.AddPolicies(services);
services.AddProblemDetails();
services.AddExceptionHandler<ProblemHandler>();
services.ConfigureHttpJsonOptions(o =>
{
    o.SerializerOptions.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase));
    o.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
    o.SerializerOptions.RespectNullableAnnotations = true;
    o.SerializerOptions.RespectRequiredConstructorParameters = true;
    o.SerializerOptions.AllowOutOfOrderMetadataProperties = true;
});
services.AddOpenApi(o => o.AddDocumentTransformer<RequiredKinds>());
services.AddSingleton(p => new BlobStore(
    p.GetRequiredService<IDbContextFactory<BostelContext>>(), Path.Combine(data, "blobs"), p.GetRequiredService<ILogger<BlobStore>>()));
services.AddSingleton(new RegisterSigner(Path.Combine(data, "secrets")));
services.AddSingleton<PublicAddress>();
services.AddSingleton<MeshCache>().AddSingleton<PdfWriter>().AddSingleton<DraftReports>().AddSingleton<EventHub>()
    .AddHostedService(p => p.GetRequiredService<EventHub>());
services.AddScoped<PlanService>().AddScoped<PlanHistory>().AddScoped<StationService>()
    .AddScoped<FloorService>().AddScoped<ReceiveService>().AddScoped<NominalService>().AddScoped<ReportService>().AddScoped<DemoData>();
services.AddScoped<PiecesTable>().AddScoped<PartTrend>().AddScoped<DeliveryService>().AddScoped<LayoutService>();
services.AddScoped<JobQueue>().AddScoped<JobLease>().AddScoped<JobRunner>()
    .AddScoped<Accounts>().AddScoped<SignInGuard>();

var describeTo = builder.Configuration["Bostel:WriteOpenApi"];
var jobsOn = describeTo is null && builder.Configuration.GetValue("Bostel:Jobs", true);
var migrate = describeTo is null && builder.Configuration.GetValue("Bostel:Migrate", true);
services.AddSingleton(new IntakeOptions(
    builder.Configuration["Bostel:Intake"] ?? Path.Combine(data, "intake"),
    TimeSpan.FromMilliseconds(builder.Configuration.GetValue("Bostel:IntakeEvery", 1500))));
services.AddSingleton(new DeliveryOptions(
    builder.Configuration["Bostel:Delivery"] ?? Path.Combine(data, "delivery"),
    builder.Configuration["Bostel:Outbox"] ?? Path.Combine(data, "outbox"),
    builder.Configuration["Bostel:Smtp"] is { Length: > 0 } smtp ? new Uri(smtp) : null,
    builder.Configuration["Bostel:MailFrom"] ?? "Bostel <bostel@localhost>"));
if (jobsOn)
{
    services.AddHostedService<IntakeService>();
    services.AddHostedService<JobWorker>();
}

var app = builder.Build();
if (describeTo is null && builder.Configuration.GetValue("Bostel:OwnTemp", true))
{
    Leftovers.Claim(data);
    app.Lifetime.ApplicationStopped.Register(() => Leftovers.Release(data));
}

if (migrate)
{
    await StartUp.RunAsync(app.Services, builder.Configuration, data, CancellationToken.None);
}

RequestGuards.UseProxies(app, builder.Configuration["Bostel:Proxies"]);
RequestGuards.UseHeadersAndOrigin(app);
app.UseExceptionHandler();
app.UseStatusCodePages();
app.UseDefaultFiles();
app.UseStaticFiles();
app.UseAuthentication();
app.UseAuthorization();
var description = app.MapOpenApi();
if (describeTo is null)
{
    description.Needs(Role.Reader);
}

SessionEndpoints.Map(app);
var api = app.MapGroup("/api");
PartEndpoints.Map(api);
PlanEndpoints.Map(api);
FloorEndpoints.Map(api);
PieceEndpoints.Map(api);
PrepareEndpoints.Map(api);
LayoutEndpoints.Map(api);
IssuingEndpoints.Map(api);
DeliveryEndpoints.Map(api);
RecordEndpoints.Map(api);
PeopleEndpoints.Map(api);
app.MapFallback("/api/{**rest}", () => TypedResults.NotFound());
app.MapFallbackToFile("index.html");
if (describeTo is not null)
{
    await OpenApiFile.WriteAsync(app, describeTo);
    return;
}

app.Run();

/// <summary>The entry point, visible to the tests.</summary>
public partial class Program
{
}
