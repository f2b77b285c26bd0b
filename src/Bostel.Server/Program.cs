using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Demo;
using Bostel.Server.Endpoints;
using Bostel.Server.Jobs;
using Bostel.Server.Services;
using Hangfire;
using Hangfire.PostgreSql;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Serilog;

var builder = WebApplication.CreateBuilder(args);
builder.Host.UseSerilog((_, log) => log.MinimumLevel.Information().MinimumLevel.Override("Microsoft", Serilog.Events.LogEventLevel.Warning)
    .MinimumLevel.Override("Microsoft.EntityFrameworkCore.Database.Command", Serilog.Events.LogEventLevel.Fatal)
    .MinimumLevel.Override("Hangfire", Serilog.Events.LogEventLevel.Warning).WriteTo.Console(formatProvider: System.Globalization.CultureInfo.InvariantCulture));
builder.WebHost.ConfigureKestrel(k => k.Limits.MaxRequestBodySize = 3L << 30);

var connection = builder.Configuration["Bostel:Database"] ?? "Host=127.0.0.1;Port=5311;Database=bostel;Username=bostel";
var data = builder.Configuration["Bostel:Data"] ?? Path.Combine(AppContext.BaseDirectory, "var");
var services = builder.Services;
services.AddSingleton(NpgsqlDataSource.Create(connection));
services.AddPooledDbContextFactory<BostelContext>((provider, o) => o.UseNpgsql(provider.GetRequiredService<NpgsqlDataSource>(), n => n.EnableRetryOnFailure(3)));
services.AddScoped(provider => provider.GetRequiredService<IDbContextFactory<BostelContext>>().CreateDbContext());
services.AddIdentity<AppUser, IdentityRole>(o =>
{
    o.Password.RequireUppercase = false;
    o.Password.RequireNonAlphanumeric = false;
    o.Password.RequiredLength = 10;
}).AddEntityFrameworkStores<BostelContext>();
services.ConfigureApplicationCookie(o =>
{
    o.Cookie.Name = "bostel";
    o.Cookie.SameSite = SameSiteMode.Strict;
    o.Events.OnRedirectToLogin = c => Answer(c.Response, 401);
    o.Events.OnRedirectToAccessDenied = c => Answer(c.Response, 403);
});
services.AddAuthorization();
services.AddProblemDetails();
services.AddExceptionHandler<ProblemHandler>();
services.ConfigureHttpJsonOptions(o =>
{
    o.SerializerOptions.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase));
    o.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
    o.SerializerOptions.RespectNullableAnnotations = true;
    o.SerializerOptions.RespectRequiredConstructorParameters = true;
});
services.AddOpenApi();
services.AddSingleton(p => new BlobStore(p.GetRequiredService<IDbContextFactory<BostelContext>>(), Path.Combine(data, "blobs")));
services.AddSingleton<MeshCache>().AddSingleton<PdfWriter>().AddSingleton<EventHub>().AddHostedService(p => p.GetRequiredService<EventHub>());
services.AddScoped<PlanService>().AddScoped<StationService>().AddScoped<ReceiveService>().AddScoped<ReportService>().AddScoped<JobQueue>().AddScoped<DemoData>();

// A job's lease is renewed while it runs; when its process dies, another takes the job up within half a minute. One job at a time: it uses all cores.
var describeTo = builder.Configuration["Bostel:WriteOpenApi"];
var jobsOn = describeTo is null && builder.Configuration.GetValue("Bostel:Jobs", true);
var migrate = describeTo is null && builder.Configuration.GetValue("Bostel:Migrate", true);
services.AddHangfire(h => h.UseSimpleAssemblyNameTypeSerializer().UseRecommendedSerializerSettings().UsePostgreSqlStorage(
    o => o.UseNpgsqlConnection(connection), new PostgreSqlStorageOptions { QueuePollInterval = TimeSpan.FromMilliseconds(200), InvisibilityTimeout = TimeSpan.FromSeconds(30), UseSlidingInvisibilityTimeout = true }));
services.AddSingleton(new IntakeOptions(
    builder.Configuration["Bostel:Intake"] ?? Path.Combine(data, "intake"), TimeSpan.FromMilliseconds(builder.Configuration.GetValue("Bostel:IntakeEvery", 1500))));
if (jobsOn)
{
    services.AddHostedService<IntakeService>();
    services.AddHangfireServer(o =>
    {
        o.WorkerCount = 1;
        o.SchedulePollingInterval = TimeSpan.FromSeconds(2);
        o.ShutdownTimeout = TimeSpan.FromSeconds(5);
    });
}

var app = builder.Build();
if (migrate)
{
    await using var scope = app.Services.CreateAsyncScope();
    await scope.ServiceProvider.GetRequiredService<BostelContext>().Database.MigrateAsync();
    var demo = scope.ServiceProvider.GetRequiredService<DemoData>();
    await demo.EnsurePeopleAsync();
    if (builder.Configuration["Bostel:Demo"] is { Length: > 0 } folder)
    {
        await demo.EnsurePartsAsync(folder, CancellationToken.None);
    }
}

app.UseExceptionHandler();
app.UseStatusCodePages();
app.UseDefaultFiles();
app.UseStaticFiles();
app.UseAuthentication();
app.UseAuthorization();
app.MapOpenApi();
SessionEndpoints.Map(app);
var api = app.MapGroup("/api").RequireAuthorization();
PartEndpoints.Map(api);
PieceEndpoints.Map(api);
PrepareEndpoints.Map(api);
RecordEndpoints.Map(api);
app.MapFallback("/api/{**rest}", () => TypedResults.NotFound());
app.MapFallbackToFile("index.html");
if (describeTo is not null)
{
    await OpenApiFile.WriteAsync(app, describeTo);
    return;
}

app.Run();

static Task Answer(HttpResponse response, int status)
{
    response.StatusCode = status;
    return Task.CompletedTask;
}

/// <summary>The entry point, visible to the tests.</summary>
public partial class Program
{
}
