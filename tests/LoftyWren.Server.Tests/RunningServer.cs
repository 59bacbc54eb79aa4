using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;

namespace LoftyWren.Server.Tests;

/// <summary>A server in this process, on a port of its own, with the demo; shared by the tests of one class.</summary>
public sealed class DemoServer : IAsyncLifetime
{
    private readonly string _data = Directory.CreateTempSubdirectory("lofty-wren-server-").FullName;

    public WebApplication App { get; private set; } = null!;

    public string Address { get; private set; } = "";

    public T Get<T>() where T : notnull => App.Services.GetRequiredService<T>();

    public async Task InitializeAsync()
    {
        int port = FreePort();
        Address = $"http://localhost:{port}";
        App = await LoftyWrenServer.Build(new ServerOptions(port, _data, false, Path.Combine(Root(), "demo"), "no-client"));
        Get<Installation.SiteHost>().SetClock("engineer", false, 1, null);
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

    public static string Root()
    {
        string folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "LoftyWren.slnx"))) folder = Path.GetDirectoryName(folder)!;
        return folder;
    }

    public static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
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
