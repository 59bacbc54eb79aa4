using System.Diagnostics;
using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tests.Records;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Supervision;
using LoftyWren.VirtualSite.Tests.Devices;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.Extensions.DependencyInjection;

namespace LoftyWren.Server.Tests;

/// <summary>The virtual site in a process of its own: the server reaches it by its link and nothing else is different, until somebody pulls its plug.</summary>
[Trait("Takes", "long")]
public sealed class FarSiteTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("lofty-wren-far-").FullName;
    private readonly int _sitePort = DemoServer.FreePort();

    private string At => $"127.0.0.1:{_sitePort}";

    private string KeyFile => Path.Combine(_folder, "site.key");

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private async Task<Process> StartSite()
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true };
        foreach (string argument in (string[])[typeof(LoftyWrenServer).Assembly.Location, "--site-only", At, "--data", Path.Combine(_folder, "site"), "--site-key", KeyFile]) start.ArgumentList.Add(argument);
        Process process = Process.Start(start)!;
        Assert.StartsWith($"A virtual site is ready at {At}", await process.StandardOutput.ReadLineAsync());
        // Its log is read on, so that it never waits for somebody to read it.
        _ = process.StandardOutput.ReadToEndAsync();
        return process;
    }

    private static async Task Until(string what, Func<Task<bool>> so)
    {
        for (int i = 0; i < 300; i++)
        {
            if (await so()) return;
            await Task.Delay(100);
        }
        Assert.Fail(what);
    }

    [Fact]
    public async Task All_goes_over_the_link_and_x()
    {
        Process site = await StartSite();
        try
        {
            int port = DemoServer.FreePort();
            string address = $"http://localhost:{port}";
            await using WebApplication app = await LoftyWrenServer.Build(new ServerOptions(port, Path.Combine(_folder, "server"), false, Path.Combine(DemoServer.Root(), "demo"), "no-client", Site: At, SiteKey: KeyFile));
            await app.StartAsync();
            // Nothing of a site is in this process.
            Assert.Null(app.Services.GetRequiredService<Server.Projects.ProjectDirectory>().Main.Find(typeof(SiteHost)));
            var person = new Client(address);
            (await person.Post("/api/sign-in", new { name = "technician", password = "saltmarsh" })).EnsureSuccessStatusCode();
            await using HubConnection hub = new HubConnectionBuilder().WithUrl($"{address}/live", o => o.Cookies = person.Cookies).Build();
            var live = new System.Collections.Concurrent.ConcurrentDictionary<string, (string Text, int Status)>();
            hub.On<JsonNode>("live", batch =>
            {
                foreach (JsonNode? v in batch.AsArray()) live[v!["id"]!.GetValue<string>()] = (v["text"]!.GetValue<string>(), v["f"]!.GetValue<int>());
            });
            await hub.StartAsync();
            // A test on a copy of the site has the copy come over the link, without what its devices keep to themselves.
            var proofs = JsonNode.Parse(await (await person.Post("/api/sequences/glaze-seq/tests/run")).Content.ReadAsStringAsync())!;
            Assert.All(proofs["tests"]!.AsArray(), t => Assert.Equal("passed", t!["state"]!.GetValue<string>()));
            VirtualSite.SiteCopy copy = app.Services.GetRequiredService<Server.Projects.ProjectDirectory>().Main.Get<IVirtualSite>().Copy();
            Assert.All(copy.Devices, d => Assert.True(d.Door is null or { Certificate.Length: 0, Accounts.Count: 0, Passphrase: null }));
            VirtualSite.Site stands = copy.Build();
            Assert.True(stands.Devices.Count > 5 && stands.Devices.Values.All(d => d.Program is not null || d.Door is not null));
            stands.RunUntil(stands.Now + 60_000);
            await hub.InvokeAsync("Watch", new[] { "p:kiln-temp", "s:hours", "b:kiln-seq/high/out", "p:no-such" });
            await Until("values come over both lines", () => Task.FromResult(live.Count == 4));
            Assert.EndsWith("°C", live["p:kiln-temp"].Text);
            Assert.Equal("–", live["p:no-such"].Text);

            // Hold, why, ladder, trail, alarms, trends.
            (await person.Post("/api/held", new { pointId = "throw-valve", value = 30, why = "valve exercise", minutes = 10 })).EnsureSuccessStatusCode();
            await Until("the hold is in force", async () => (await person.Read("/api/why/throw-valve"))["fact"]!.GetValue<string>().Contains("held by hand by technician", StringComparison.Ordinal));
            Assert.Equal(8, (await person.Read("/api/ladders/throw-valve"))["winner"]!.GetValue<int>());
            Assert.Contains((await person.Read("/api/trail")).AsArray(), t => t!["what"]!.GetValue<string>().StartsWith("Held ‘Heating valve’", StringComparison.Ordinal));
            Assert.Contains((await person.Read("/api/alarms")).AsArray(), a => a!["name"]!.GetValue<string>() == "Shop too warm");
            long now = app.Services.GetRequiredService<SiteServer>().Clock().Now;
            Assert.InRange((await person.Read($"/api/trends/data?ids=tr-kiln-temp&from={now - 86_400_000}&to={now}&columns=100"))[0]!["at"]!.AsArray().Count, 95, 101);
            var workspace = app.Services.GetRequiredService<Server.Projects.Workspace>();
            Core.Points.Point setpoint = workspace.Project.Find<Core.Points.Point>(new("mix-sp"))!;
            Assert.True(workspace.Apply([Edit.Of(setpoint with { Fallback = 18.5 })], "engineer").Accepted);
            JobView job = await app.Services.GetRequiredService<JobRunner>().Finish(JsonNode.Parse(await (await person.Post("/api/commission/bn-c1/send")).Content.ReadAsStringAsync())!["id"]!.GetValue<string>());
            Assert.Equal((JobState.Done, "BN-C1 runs version 2."), (job.State, job.Message));
            Assert.Equal("BN-C1 runs exactly the design.", (await person.Read("/api/commission/bn-c1/read-back"))["sentence"]!.GetValue<string>());

            site.Kill();
            await site.WaitForExitAsync();
            await Until("the site is late", async () => (await person.Read("/api/site"))["link"]!.GetValue<string>() == "late");
            await Until("live values are old", () => Task.FromResult((live["p:kiln-temp"].Status & (int)Core.Status.StatusFlags.Stale) != 0));
            HttpResponseMessage refused = await person.Post("/api/held", new { pointId = "throw-valve", value = 40, why = "again", minutes = 10 });
            Assert.Equal(HttpStatusCode.ServiceUnavailable, refused.StatusCode);
            Assert.Contains($"The virtual site at {At} does not answer. Nothing was done there.", await Client.Detail(refused));
            // What is designed can be worked on meanwhile.
            Assert.NotEmpty((await person.Read("/api/trends")).AsArray());

            site.Dispose();
            site = await StartSite();
            await Until("the site is heard again", async () => (await person.Read("/api/site"))["link"]!.GetValue<string>() == "heard");
            await Until("live values are fresh", () => Task.FromResult((live["p:kiln-temp"].Status & (int)Core.Status.StatusFlags.Stale) == 0));
            // What was held before the plug was pulled was written before it was answered.
            Assert.Equal(8, (await person.Read("/api/ladders/throw-valve"))["winner"]!.GetValue<int>());
            Assert.Equal(2, (await person.Read("/api/commission/bn-c1"))["version"]!.GetValue<int>());
            await app.StopAsync();
        }
        finally
        {
            if (!site.HasExited) site.Kill();
            site.Dispose();
        }
    }

    private sealed class Hand : TimeProvider
    {
        public TimeSpan Passed { get; set; }

        public override long GetTimestamp() => Passed.Ticks;

        public override long TimestampFrequency => TimeSpan.TicksPerSecond;
    }

    [Fact]
    public void Who_does_not_answer_is_late_after_three_seconds_and_silent_after_fifteen()
    {
        var clock = new Hand();
        using var history = new Storage.History.HistoryStore(Path.Combine(_folder, "history.db"));
        using var server = new SiteServer(FarSite.At(At, "main", "key"), history, clock, Microsoft.Extensions.Logging.Abstractions.NullLogger.Instance);
        foreach (var (seconds, state) in new[] { (0, LinkState.Heard), (3, LinkState.Heard), (4, LinkState.Late), (15, LinkState.Late), (16, LinkState.Silent), (4000, LinkState.Silent) })
        {
            clock.Passed = TimeSpan.FromSeconds(seconds);
            ClockView view = server.Clock();
            Assert.Equal((state, false), (view.Link, view.Running));
        }
        Assert.Contains("does not answer", server.Clock().Trouble);
    }

    [Fact]
    public async Task Nobody_gets_an_answer_without_the_key_and_nonsense_is_refused()
    {
        await using WebApplication site = SiteOnly.Build(At, Path.Combine(_folder, "site"), KeyFile);
        await site.StartAsync();
        using var http = new HttpClient { BaseAddress = new Uri($"http://{At}") };
        async Task<HttpStatusCode> Ask(string path, string body, string? key)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = new StringContent(body) };
            if (key is not null) request.Headers.Add("X-Lofty-Wren-Site-Key", key);
            return (await http.SendAsync(request)).StatusCode;
        }
        string key = await File.ReadAllTextAsync(KeyFile);
        Assert.Equal(HttpStatusCode.Unauthorized, await Ask("/sites/main/Clock", "[]", null));
        Assert.Equal(HttpStatusCode.Unauthorized, await Ask("/sites/main/Clock", "[]", "guess"));
        Assert.Equal(HttpStatusCode.OK, await Ask("/sites/main/Open", "[1776150000000]", key));
        Assert.Equal(HttpStatusCode.OK, await Ask("/sites/main/Clock", "[]", key));
        foreach ((string path, string body) in new[] { ("/sites/main/Hold", "[]"), ("/sites/main/Hold", "{"), ("/sites/main/Hold", "17"), ("/sites/main/Hang", "[\"a\",\"b\",\"c\",4]") })
            Assert.Equal(HttpStatusCode.BadRequest, await Ask(path, body, key));
        foreach (string path in new[] { "/sites/main/GetHashCode", "/sites/main/Dispose", "/sites/..%2Fetc/Clock", "/sites/main" }) Assert.Equal(HttpStatusCode.NotFound, await Ask(path, "[]", key));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await Ask("/sites/main/Hold", "[\"a\",\"b\",{\"pointId\":\"none\",\"value\":1,\"why\":\"x\"}]", key));
        var stranger = Assert.Throws<LinkException>(() => FarSite.At(At, "main", "another").Clock());
        Assert.Contains("has another key", stranger.Message);
    }
}

/// <summary>A device that only tests know is sent, read back, explained and shown live by the server like a controller.</summary>
public class OtherDeviceTests(DemoServer server) : IClassFixture<DemoServer>
{
    [Fact]
    public async Task A_kind_of_device_registered_by_a_line_is_installed_and_seen()
    {
        Client engineer = await server.As("engineer");
        var (status, body) = await engineer.Change(Edit.Of(new Hatch { Id = new("hatch-1"), Name = "North hatch", OwnerId = new("kh-1-kiln-room"), Address = 3 }), Edit.Of(new Hatch { Id = new("hatch-2"), Name = "South hatch", OwnerId = new("kh-1-kiln-room"), Address = 7 }));
        Assert.True(status == 200, body.ToJsonString());
        Assert.Contains((await engineer.Read("/api/commission")).AsArray(), a => a!["name"]!.GetValue<string>() == "North hatch" && !a["installed"]!.GetValue<bool>());
        foreach (string hatch in new[] { "hatch-1", "hatch-2" })
        {
            JobView job = await server.SetUp(engineer, hatch);
            Assert.True(job.State == JobState.Done, job.Message);
        }
        Assert.Equal("North hatch runs exactly the design.", (await engineer.Read("/api/commission/hatch-1/read-back"))["sentence"]!.GetValue<string>());
        IVirtualSite site = server.Get<SiteHost>();
        int before = (int)site.Read(new("hatch-2"))!.Value.Value;
        site.SetClock("engineer", null, null, 30);
        // A flag every three seconds: ten of them in thirty.
        Assert.Equal(before + 10, (int)site.Read(new("hatch-2"))!.Value.Value, 1.0);
        Assert.StartsWith("South hatch was waved at ", (await engineer.Read("/api/why/hatch-2"))["fact"]!.GetValue<string>());
        LiveFound found = site.FindLive(["p:hatch-2"]);
        Assert.Equal(site.Read(new("hatch-2")), site.ReadLive(found.Generation, [found.Spots[0].Handle]).Readings![0]);
        Assert.Equal(FlagMedium.Name, server.Get<SiteHost>().Ask(s => s.Media[^1].Key));
    }
}
