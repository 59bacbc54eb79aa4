using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Alarms;
using LoftyWren.Server.Bus;
using LoftyWren.Server.Bus.Work;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Demo;
using LoftyWren.Server.Explanations;
using LoftyWren.Server.Hardware;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Libraries;
using LoftyWren.Server.Live;
using LoftyWren.Server.Names;
using LoftyWren.Server.Places;
using LoftyWren.Server.PointLists;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Records;
using LoftyWren.Server.Safety;
using LoftyWren.Server.Schedules;
using LoftyWren.Server.Sequences;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Tags;
using LoftyWren.Server.Trends;
using LoftyWren.Formats.Sheets;
using LoftyWren.Storage;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Libraries;
using LoftyWren.Storage.Projects;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.FileProviders;
using Serilog;
using Serilog.Events;

namespace LoftyWren.Server;

/// <summary>Puts the whole server together.</summary>
public static class LoftyWrenServer
{
    /// <summary>The header that every request that changes something must carry; another site's page cannot send it.</summary>
    public const string OwnRequestHeader = "X-Lofty-Wren";

    /// <summary>Builds the server; nothing listens until it is run.</summary>
    public static async Task<WebApplication> Build(ServerOptions options)
    {
        FolderLock taken = FolderLock.Take(options.DataFolder);
        WebApplication app;
        try
        {
            app = PutTogether(options, taken);
        }
        catch
        {
            taken.Dispose();
            throw;
        }
        try
        {
            await Prepare(app, options);
            return app;
        }
        catch
        {
            await app.DisposeAsync();
            taken.Dispose();
            throw;
        }
    }

    private static WebApplication PutTogether(ServerOptions options, FolderLock taken)
    {
        // The content root stays away from the build folder: the client is served from its own folder below.
        var builder = WebApplication.CreateSlimBuilder(new WebApplicationOptions { EnvironmentName = Environments.Production });
        builder.Host.UseSerilog((_, log) => log.MinimumLevel.Is(LogEventLevel.Warning)
            // What fails is answered, and logged once, by Failed below; what people send that cannot be read is no matter for the log.
            .MinimumLevel.Override("Microsoft.AspNetCore.Diagnostics", LogEventLevel.Fatal)
            .WriteTo.File(Path.Combine(options.DataFolder, "log", "lofty-wren-.log"), rollingInterval: RollingInterval.Day, fileSizeLimitBytes: 10 * 1024 * 1024, rollOnFileSizeLimit: true, retainedFileCountLimit: 14, formatProvider: System.Globalization.CultureInfo.InvariantCulture));
        builder.WebHost.UseKestrelHttpsConfiguration();
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.Limits.MaxRequestBodySize = 10 * 1024 * 1024;
            kestrel.AddServerHeader = false;
        });
        builder.WebHost.UseUrls($"http://127.0.0.1:{options.Port}");
        IServiceCollection services = builder.Services;
        services.AddSingleton(TimeProvider.System);
        // By factories, so that the container closes what it opened, in the opposite order.
        services.AddSingleton(_ => taken);
        services.AddSingleton(_ => new AccountStore(Path.Combine(options.DataFolder, "accounts.db"), options.AsItIs));
        services.AddSingleton(_ => new LibraryStore(Path.Combine(options.DataFolder, "libraries.db"), options.AsItIs));
        services.AddSingleton<Sessions>();
        services.AddSingleton<Shelf>();
        services.AddSingleton<AccountDirectory>();
        services.AddSingleton(options);
        services.AddSingleton(_ => new ProjectList(Path.Combine(options.DataFolder, "projects.db"), options.AsItIs));
        services.AddSingleton<ProjectDirectory>().AddHostedService(s => s.GetRequiredService<ProjectDirectory>());
        services.AddSingleton<BackupKeeper>().AddHostedService(s => s.GetRequiredService<BackupKeeper>());
        services.AddSingleton<DailyCopies>().AddHostedService(s => s.GetRequiredService<DailyCopies>());
        // The first project's; a request for another one gets that one's in their place.
        foreach (Type part in OpenProject.Parts) services.AddSingleton(part, s => s.GetRequiredService<ProjectDirectory>().Main.Find(part)!);
        services.ConfigureHttpJsonOptions(json => RecordJson.Configure(json.SerializerOptions));
        // So that a body that cannot be read is answered in words by Failed below, not by a bare 400.
        services.Configure<RouteHandlerOptions>(routes => routes.ThrowOnBadRequest = true);
        // Only what is the same for everybody: what holds somebody's secrets beside somebody else's words is not compressed together.
        services.AddResponseCompression(o =>
        {
            o.EnableForHttps = true;
            o.MimeTypes = ["text/javascript", "text/css", "image/svg+xml"];
        });
        services.AddSignalR(live => live.MaximumReceiveMessageSize = 512 * 1024).AddJsonProtocol(json => RecordJson.Configure(json.PayloadSerializerOptions));
        services.AddOpenApi("v1", OpenApiShape.Configure);
        services.AddProblemDetails();
        services.AddDataProtection().SetApplicationName("LoftyWren").PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(options.DataFolder, "keys"))).ProtectKeysWithCertificate(KeySeal.Certificate(options.DataFolder));
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(Cookies);
        services.AddAuthorization(Least.AddTo);
        services.AddHostFiltering(hosts => hosts.AllowedHosts = ["localhost", "127.0.0.1", "[::1]"]);

        WebApplication app = builder.Build();
        app.UseHostFiltering();
        app.Use(TakeProjectOff);
        app.Use(Guard);
        app.UseExceptionHandler(errors => errors.Run(Failed));
        app.UseStatusCodePages();
        string client = Path.GetFullPath(options.ClientFolder);
        app.UseResponseCompression();
        if (Directory.Exists(client)) app.UseStaticFiles(new StaticFileOptions { FileProvider = new PhysicalFileProvider(client), OnPrepareResponse = Cache });
        // Here and not at the beginning, since the address of a project is taken off before.
        app.UseRouting();
        app.UseAuthentication();
        app.Use(ChooseProject);
        app.UseAuthorization();
        RouteGroupBuilder api = app.MapGroup("/api");
        AccountEndpoints.Map(api);
        ProjectEndpoints.Map(api);
        ProjectListEndpoints.Map(api);
        PastEndpoints.Map(api);
        PlaceEndpoints.Map(api);
        ListEndpoints.Map(api);
        GridEndpoints.Map(api);
        KindEndpoints.Map(api);
        CellEndpoints.Map(api);
        TagEndpoints.Map(api);
        NameEndpoints.Map(api);
        LibraryEndpoints.Map(api);
        HardwareEndpoints.Map(api);
        BusEndpoints.Map(api);
        BusDeviceEndpoints.Map(api);
        BusTableEndpoints.Map(api);
        BusWorkEndpoints.Map(api);
        BusMatrixEndpoints.Map(api);
        BlockEndpoints.Map(api);
        SequenceEndpoints.Map(api);
        ProofEndpoints.Map(api);
        LedgerEndpoints.Map(api);
        ScanEndpoints.Map(api);
        LogicEndpoints.Map(api);
        OwnBlockEndpoints.Map(api);
        ScheduleEndpoints.Map(api);
        TrendEndpoints.Map(api);
        AlarmEndpoints.Map(api);
        WhyEndpoints.Map(api);
        SiteEndpoints.Map(api);
        SiteBuilding.Map(api);
        CommissioningEndpoints.Map(api);
        CheckEndpoints.Map(api);
        ContactEndpoints.Map(api);
        OrphanEndpoints.Map(api);
        DayRehearsals.Map(api);
        ConversionEndpoints.Map(api);
        HardwareEndpoints.MapReplacement(api);
        JobRunner.Map(api);
        api.MapFallback(() => Problems.Missing("address")).ForAnybody();
        app.MapHub<LiveHub>("/live").For(Role.Viewer);
        app.MapOpenApi().ForAnybody();
        if (Directory.Exists(client)) app.MapFallback(http => Page(http, client)).ForAnybody();
        return app;
    }

    private static async Task Prepare(WebApplication app, ServerOptions options)
    {
        // The lock first, so that it goes last.
        _ = app.Services.GetRequiredService<FolderLock>();
        foreach (string said in KeySeal.MoveDamagedAside(Path.Combine(options.DataFolder, "keys"))) app.Logger.LogWarning("{Said}", said);
        _ = app.Services.GetRequiredService<ProjectList>();
        var workspace = app.Services.GetRequiredService<Workspace>();
        var site = app.Services.GetRequiredService<SiteServer>();
        var accounts = app.Services.GetRequiredService<AccountDirectory>();
        string marker = Path.Combine(options.DataFolder, "demo");
        if (!options.Empty && workspace.Project.Revision == 0 && !File.Exists(marker))
        {
            await DemoLoader.Load(options.DemoFolder, workspace, site, app.Services.GetRequiredService<JobRunner>(), app.Services.GetRequiredService<Contacts>(), app.Services.GetRequiredService<DayRehearsals>(), app.Services.GetRequiredService<Comparing>(), app.Services.GetRequiredService<LibraryStore>());
            await File.WriteAllTextAsync(marker, "This folder holds the demo.");
        }
        else
        {
            site.Link.Open(SiteHost.Beginning);
            app.Services.GetRequiredService<Contacts>().FollowStandIns();
        }
        if (File.Exists(marker)) accounts.AddDemo();
    }

    private static void Cookies(CookieAuthenticationOptions options)
    {
        options.Cookie.Name = "lofty-wren";
        // One sign-in for all projects of the installation.
        options.Cookie.Path = "/";
        options.Cookie.HttpOnly = true;
        options.Cookie.SameSite = SameSiteMode.Strict;
        options.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        options.ExpireTimeSpan = TimeSpan.FromHours(12);
        options.SlidingExpiration = true;
        options.Events.OnRedirectToLogin = context => Deny(context.Response, 401, "Sign in first.");
        options.Events.OnRedirectToAccessDenied = context => Deny(context.Response, 403, "Your account may not do this. Ask somebody whose role allows it.");
        options.Events.OnValidatePrincipal = async context =>
        {
            var accounts = context.HttpContext.RequestServices.GetRequiredService<AccountDirectory>();
            Account? account = accounts.WithStamp(context.Principal?.Identity?.Name, context.Principal?.FindFirst(Least.StampClaim)?.Value);
            bool goesOn = context.HttpContext.RequestServices.GetRequiredService<Sessions>().GoesOn(context.Principal?.FindFirst(Least.SessionClaim)?.Value, context.Principal?.Identity?.Name);
            if (goesOn && account is not null && context.Principal!.HasClaim(Least.RoleClaim, account.Role.ToString())) return;
            context.RejectPrincipal();
            await context.HttpContext.SignOutAsync();
        };
    }

    private static Task Deny(HttpResponse response, int status, string detail)
    {
        response.StatusCode = status;
        return response.WriteAsJsonAsync(new { title = "Not allowed", status, detail }, options: null, contentType: "application/problem+json");
    }

    /// <summary>What lies below /p/ID is for the project ID; from here on the address is what it would be at the root.</summary>
    private static Task TakeProjectOff(HttpContext http, RequestDelegate next)
    {
        if (http.Request.Path.StartsWithSegments("/p", out PathString rest) && rest.Value is { Length: > 1 } path)
        {
            int end = path.IndexOf('/', 1);
            http.Items[ProjectId] = end < 0 ? path[1..] : path[1..end];
            http.Request.PathBase = http.Request.PathBase.Add($"/p{(end < 0 ? path : path[..end])}");
            http.Request.Path = end < 0 ? "/" : path[end..];
        }
        return next(http);
    }

    /// <summary>Opens the project a request is for, once it is known who asks; its services take the place of the first project's.</summary>
    private static async Task ChooseProject(HttpContext http, RequestDelegate next)
    {
        if (http.Items[ProjectId] is string id && http.User.Identity?.IsAuthenticated == true)
        {
            // A live line stays as long as the page; it holds nothing open.
            bool isLive = http.Request.Path.StartsWithSegments("/live");
            if (await http.RequestServices.GetRequiredService<ProjectDirectory>().Open(id) is { } project && (isLive || project.TryEnter()))
            {
                http.Items[ProjectDirectory.Item] = project;
                http.RequestServices = new ProjectServices(project, http.RequestServices);
                try
                {
                    await next(http);
                }
                finally
                {
                    if (!isLive) project.Leave();
                }
                return;
            }
            if (http.Request.Path.StartsWithSegments("/api") || http.Request.Path.StartsWithSegments("/live"))
            {
                await Deny(http.Response, 404, "There is no such project here, or it is archived. Look into the list of projects.");
                return;
            }
            http.Response.Redirect("/projects");
            return;
        }
        await next(http);
    }

    private const string ProjectId = "project-id";

    /// <summary>Headers that keep other sites out of ours, and requests from other sites away from what changes something.</summary>
    private static async Task Guard(HttpContext http, RequestDelegate next)
    {
        IHeaderDictionary headers = http.Response.Headers;
        // Styles alone may be inline: the component library writes its own.
        headers.ContentSecurityPolicy = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "camera=(self), microphone=(), geolocation=()";
        if (http.Request.Path.StartsWithSegments("/api")) headers.CacheControl = "no-store";
        HttpRequest request = http.Request;
        string? origin = request.Headers.Origin;
        bool isOurs = string.IsNullOrEmpty(origin) || (Uri.TryCreate(origin, UriKind.Absolute, out Uri? from) && from.Authority == request.Host.Value);
        bool changes = !(HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method) || HttpMethods.IsOptions(request.Method));
        bool isLive = request.Path.StartsWithSegments("/live");
        if ((!isOurs && (changes || isLive)) || (changes && !isLive && !request.Headers.ContainsKey(OwnRequestHeader)))
        {
            await Deny(http.Response, 403, "This request does not come from Lofty Wren's own pages.");
            return;
        }
        await next(http);
    }

    private static Task Failed(HttpContext http)
    {
        Exception? error = http.Features.Get<Microsoft.AspNetCore.Diagnostics.IExceptionHandlerFeature>()?.Error;
        if (error is BadHttpRequestException bad)
        {
            string detail = bad.InnerException is System.Text.Json.JsonException json ? $"The request could not be read: {json.Message}" : $"The request could not be read: {bad.Message}";
            http.Response.StatusCode = bad.StatusCode;
            return http.Response.WriteAsJsonAsync(new { title = "Not understood", status = bad.StatusCode, detail }, options: null, contentType: "application/problem+json");
        }
        return error switch
        {
            // Whoever asked has left.
            OperationCanceledException when http.RequestAborted.IsCancellationRequested => Task.CompletedTask,
            StorageException storage => Answer(503, "Not written", storage.Message),
            LinkException silent => Answer(503, "No answer", silent.Message),
            Microsoft.Data.Sqlite.SqliteException sqlite when StorageTrouble.Is(sqlite) => Answer(503, "Not written", StorageTrouble.Say(sqlite, "The data folder")),
            IOException disk => Answer(503, "Not written", $"A file could not be read or written: {disk.Message} Nothing was changed. Make sure that the disk has room and that the data folder may be written."),
            FileRefusedException file => Answer(422, "Not done", file.Message),
            MalformedException malformed => Answer(422, "Not understood", malformed.Message),
            // A record of no sort, or of one that there is not: what the reader of JSON says of itself means nothing to anybody.
            NotSupportedException or System.Text.Json.JsonException => Answer(400, "Not understood", error is System.Text.Json.JsonException json ? $"The request could not be read: {json.Message}" : "The request could not be read: a record in it does not say of which sort it is. Each has a ‘type’."),
            FormatException format => Answer(422, "Not understood", format.Message),
            _ => Unexpected(),
        };

        Task Unexpected()
        {
            Log.Error(error, "A request failed: {Method} {Path}", http.Request.Method, http.Request.Path.Value);
            return Answer(500, "Something went wrong here", "The program met something it did not expect. Look whether what you asked for was done before you try again. The log in the data folder says more.");
        }

        Task Answer(int status, string title, string detail)
        {
            http.Response.StatusCode = status;
            return http.Response.WriteAsJsonAsync(new { title, status, detail }, options: null, contentType: "application/problem+json");
        }
    }

    private static void Cache(Microsoft.AspNetCore.StaticFiles.StaticFileResponseContext context) =>
        context.Context.Response.Headers.CacheControl = context.Context.Request.Path.StartsWithSegments("/assets") ? "public, max-age=31536000, immutable" : "no-cache";

    private static async Task Page(HttpContext http, string client)
    {
        http.Response.ContentType = "text/html; charset=utf-8";
        http.Response.Headers.CacheControl = "no-cache";
        await http.Response.SendFileAsync(Path.Combine(client, "index.html"));
    }
}
