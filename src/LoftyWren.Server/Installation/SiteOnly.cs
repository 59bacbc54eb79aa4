using Microsoft.AspNetCore.DataProtection;
using System.Collections.Concurrent;
using System.Reflection;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using LoftyWren.Core.Records;
using LoftyWren.Server.Safety;
using LoftyWren.Storage;
using LoftyWren.Storage.Site;

namespace LoftyWren.Server.Installation;

/// <summary>
/// The virtual sites of an installation in a process of their own: no project, no accounts, no pages. It answers whoever has
/// the key, and nobody else.
/// </summary>
public sealed class SiteOnly : IAsyncDisposable
{
    private readonly ConcurrentDictionary<string, SiteHost> _hosts = new();
    private readonly List<SiteStore> _stores = [];
    private readonly Lock _opening = new();
    private readonly string _folder;
    private readonly FolderLock _taken;
    private readonly byte[] _key;
    private readonly ILogger _log;
    private readonly IDataProtector _seal;

    private SiteOnly(string folder, FolderLock taken, string key, ILogger log, IDataProtector seal) => (_folder, _taken, _key, _log, _seal) = (folder, taken, Encoding.UTF8.GetBytes(key), log, seal);

    /// <summary>Builds it for an address; nothing listens until it is run.</summary>
    public static WebApplication Build(string address, string folder, string keyFile)
    {
        FolderLock taken = FolderLock.Take(folder);
        var builder = WebApplication.CreateSlimBuilder(new WebApplicationOptions { EnvironmentName = Environments.Production });
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.Limits.MaxRequestBodySize = 64 * 1024 * 1024;
            kestrel.AddServerHeader = false;
        });
        builder.WebHost.UseUrls($"http://{address}");
        builder.Logging.SetMinimumLevel(LogLevel.Warning);
        string key = LinkWire.KeyIn(keyFile);
        builder.Services.AddDataProtection().SetApplicationName("LoftyWren").PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(folder, "keys"))).ProtectKeysWithCertificate(Safety.KeySeal.Certificate(folder));
        builder.Services.AddSingleton(services => new SiteOnly(folder, taken, key, services.GetRequiredService<ILogger<SiteHost>>(), services.GetRequiredService<IDataProtectionProvider>().CreateProtector(SiteHost.SealPurpose)));
        WebApplication app = builder.Build();
        SiteOnly sites = app.Services.GetRequiredService<SiteOnly>();
        foreach (string kept in Directory.GetDirectories(folder).Where(f => File.Exists(Path.Combine(f, "site.db")))) sites.HostOf(Path.GetFileName(kept));
        app.Use(sites.Guard);
        app.MapGet("/", () => "A virtual site. It answers its site server.");
        app.MapPost("/sites/{project}/{call}", (Delegate)sites.Answer);
        return app;
    }

    /// <summary>Whoever calls must have the key; that there is a site here is told to all on the machine.</summary>
    private Task Guard(HttpContext http, RequestDelegate next)
    {
        http.Response.Headers[LinkWire.KeyHeader] = "required";
        if (http.Request.Path == "/" || CryptographicOperations.FixedTimeEquals(Encoding.UTF8.GetBytes(http.Request.Headers[LinkWire.KeyHeader].ToString()), _key)) return next(http);
        http.Response.StatusCode = StatusCodes.Status401Unauthorized;
        return Task.CompletedTask;
    }

    private async Task<IResult> Answer(string project, string call, HttpContext http)
    {
        if (!RecordId.IsValid(project) || !LinkWire.Calls.TryGetValue(call, out MethodInfo? method)) return Results.NotFound();
        object?[] arguments;
        try
        {
            using JsonDocument body = await JsonDocument.ParseAsync(http.Request.Body);
            ParameterInfo[] parameters = method.GetParameters();
            arguments = [.. parameters.Select((p, i) => body.RootElement[i].Deserialize(p.ParameterType, LinkWire.Json))];
        }
        catch (Exception e) when (e is JsonException or IndexOutOfRangeException or InvalidOperationException or NotSupportedException)
        {
            return Results.BadRequest();
        }
        try
        {
            object? answer = method.Invoke(HostOf(project), BindingFlags.DoNotWrapExceptions, null, arguments, null);
            return method.ReturnType == typeof(void) ? Results.Ok() : Results.Json(answer, LinkWire.Json, statusCode: 200);
        }
        catch (StorageException e)
        {
            return Results.Json(e.Message, statusCode: StatusCodes.Status503ServiceUnavailable);
        }
        catch (InvalidOperationException e)
        {
            return Results.Json(e.Message, statusCode: StatusCodes.Status422UnprocessableEntity);
        }
    }

    private SiteHost HostOf(string project)
    {
        if (_hosts.TryGetValue(project, out SiteHost? known)) return known;
        lock (_opening)
        {
            if (_hosts.TryGetValue(project, out known)) return known;
            string folder = Path.Combine(_folder, project);
            Directory.CreateDirectory(folder);
            var store = new SiteStore(Path.Combine(folder, "site.db"));
            _stores.Add(store);
            var host = new SiteHost(store, TimeProvider.System, _log, _seal);
            // What is kept goes on, whether anybody asks or not; what is not there yet is begun when somebody opens it.
            if (store.IsKept) host.Open(SiteHost.Beginning);
            host.StartAsync(CancellationToken.None).GetAwaiter().GetResult();
            return _hosts[project] = host;
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (SiteHost host in _hosts.Values)
        {
            await host.StopAsync(CancellationToken.None);
            host.Dispose();
        }
        foreach (SiteStore store in _stores) store.Dispose();
        _taken.Dispose();
    }
}
