using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Tests;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;

namespace LoftyWren.Server.Tests;

/// <summary>A server in this process, on a port of its own, with the demo; shared by the tests of one class.</summary>
public sealed class DemoServer : IAsyncLifetime
{
    private readonly string _data = Directory.CreateTempSubdirectory("lofty-wren-server-").FullName;

    public WebApplication App { get; private set; } = null!;

    public string Address { get; private set; } = "";

    /// <summary>Where it keeps all.</summary>
    public string Folder => _data;

    public T Get<T>() where T : notnull => App.Services.GetRequiredService<T>();

    // The demo is loaded once; each server begins with a copy of what that kept.
    private static readonly Lazy<Task<string>> Loaded = new(async () =>
    {
        string folder = Directory.CreateTempSubdirectory("lofty-wren-demo-").FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, recursive: true);
        await using WebApplication app = await LoftyWrenServer.Build(Options(FreePort(), folder));
        app.Services.GetRequiredService<Installation.SiteHost>().SetClock("engineer", false, 1, null);
        await app.StartAsync();
        await app.StopAsync();
        return folder;
    });

    /// <summary>Fills a folder with what the loaded demo kept.</summary>
    public static async Task Fill(string folder) => TestGround.Copy(await Loaded.Value, folder);

    private static ServerOptions Options(int port, string data) => new(port, data, false, Path.Combine(Root(), "demo"), "no-client");

    public async Task InitializeAsync()
    {
        await Fill(_data);
        int port = FreePort();
        Address = $"http://localhost:{port}";
        App = await LoftyWrenServer.Build(Options(port, _data));
        // Whatever is only worked out as it runs has been, once.
        Get<Installation.SiteHost>().SetClock("engineer", null, null, 5);
        await App.StartAsync();
    }

    public async Task DisposeAsync()
    {
        await App.StopAsync();
        await App.DisposeAsync();
        Directory.Delete(_data, recursive: true);
    }

    /// <summary>How many bytes the log holds; it is flushed as it is written.</summary>
    public long LogSize() => Directory.Exists(Path.Combine(_data, "log")) ? new DirectoryInfo(Path.Combine(_data, "log")).GetFiles().Sum(f => { f.Refresh(); return f.Length; }) : 0;

    public Client Anybody() => new(Address);

    public async Task<Client> As(string account)
    {
        var client = new Client(Address);
        (await client.Post("/api/sign-in", new { name = account, password = "saltmarsh" })).EnsureSuccessStatusCode();
        return client;
    }

    /// <summary>Takes a controller or device from its box, as a technician does: hung, found, looked at, set up with secrets of its own.</summary>
    public async Task<Server.Jobs.JobView> SetUp(Client client, string host, bool hang = true)
    {
        string serial = hang ? (string)JsonNode.Parse(await (await client.Post($"/api/contacts/{host}/hang", new { why = "" })).Content.ReadAsStringAsync())!["serial"]! : "";
        JsonNode found = JsonNode.Parse(await (await client.Post("/api/contacts/discover")).Content.ReadAsStringAsync())!.AsArray().Single(d => hang ? (string)d!["device"]!["serial"]! == serial : (string?)d!["hostId"] == host)!["device"]!;
        JsonNode look = JsonNode.Parse(await (await client.Post($"/api/contacts/{host}/look", new { host = (string)found["host"]!, port = (int)found["port"]! })).Content.ReadAsStringAsync())!;
        var target = new { hostId = host, serial = (string)found["serial"]!, host = (string)found["host"]!, port = (int)found["port"]!, fingerprint = (string)look["seen"]!["fingerprint"]! };
        JsonNode answer = JsonNode.Parse(await (await client.Post("/api/contacts/set-up", new { targets = new[] { target }, secrets = Secrets })).Content.ReadAsStringAsync())!;
        Assert.Empty(answer["wrong"]!.AsArray());
        return await Get<Server.Jobs.JobRunner>().Finish((string)answer["jobs"]![0]!["id"]!);
    }

    public static readonly Core.Commissioning.TypedSecrets Secrets = new("contractor", "blue-glaze-77", "blue-glaze-77", "three pots on a shelf", "three pots on a shelf", "client", "red-clay-and-sand", "red-clay-and-sand");

    public static string Root()
    {
        string folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "LoftyWren.slnx"))) folder = Path.GetDirectoryName(folder)!;
        return folder;
    }

    public static int FreePort() => TestGround.FreePort();
}

/// <summary>A browser's side of the interface: cookies, and the header that our own pages send.</summary>
public sealed class Client
{
    public Client(string address, bool ownHeader = true)
    {
        Cookies = new CookieContainer();
        Http = new HttpClient(new HttpClientHandler { CookieContainer = Cookies, AllowAutoRedirect = false }) { BaseAddress = new Uri(address), Timeout = TimeSpan.FromSeconds(30) };
        if (ownHeader) Http.DefaultRequestHeaders.Add(LoftyWrenServer.OwnRequestHeader, "1");
    }

    public CookieContainer Cookies { get; }

    public HttpClient Http { get; }

    public Task<HttpResponseMessage> Get(string path) => Http.GetAsync(path);

    public Task<HttpResponseMessage> Post(string path, object? body = null) => Http.PostAsJsonAsync(path, body ?? new { }, RecordJson.Options);

    public async Task<JsonNode> Read(string path)
    {
        HttpResponseMessage response = await Get(path);
        Assert.True(response.IsSuccessStatusCode, $"{path}: {(int)response.StatusCode} {await response.Content.ReadAsStringAsync()}");
        return JsonNode.Parse(await response.Content.ReadAsStringAsync())!;
    }

    /// <summary>Sends edits; answers status and body.</summary>
    public async Task<(int Status, JsonNode Body)> Change(params Edit[] edits)
    {
        HttpResponseMessage response = await Post("/api/changes", new { edits });
        return ((int)response.StatusCode, JsonNode.Parse(await response.Content.ReadAsStringAsync())!);
    }

    /// <summary>The sentence of a problem.</summary>
    public static async Task<string> Detail(HttpResponseMessage response) =>
        JsonDocument.Parse(await response.Content.ReadAsStringAsync()).RootElement.GetProperty("detail").GetString()!;
}
