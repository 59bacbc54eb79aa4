using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Images;
using LoftyWren.Core.Trends;
using LoftyWren.Core.Tests;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Commissioning;
using LoftyWren.Storage.History;
using Microsoft.Extensions.Logging.Abstractions;

namespace LoftyWren.Server.Tests.Commissioning;

/// <summary>Comparisons on time, what has drifted and why, and clocks.</summary>
public class ComparingTests
{
    private static Comparing Of(Workbench bench) => new(bench.Work, bench.Host, bench.Contacts, new ImageCache(bench.Work), NullLogger.Instance);

    [Fact]
    public async Task Drift_says_whether_the_design_moved_or_what_runs_was_changed()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        using Comparing comparing = Of(bench);
        Assert.Equal((0, "It runs the design."), (await Compared(), bench.Store.Comparisons(null).Single().Sentence));
        bench.Edit(27);
        Assert.Equal((1, "The design has moved on since it was sent: 1 record differs."), (await Compared(), Last()));
        // Somebody else sends something, with the same credentials, from elsewhere.
        byte[] other = HostKinds.Build(KilnRoom.Project(differential: 1.5), KilnRoom.Project().Find(KilnRoom.Controller)!).ToBytes();
        await using (ContactClient client = await bench.Contacts.Open(bench.Designed, default))
        {
            await client.Begin(new PartOffer(ImageParts.Application, PartLayer.Application, "x", HostKinds.HashOf(other), other.Length));
            await client.Piece(ImageParts.Application, 0, other);
            await client.Activate(new ActivateOrder("somebody", "KH-C1", [], true));
        }
        Assert.True(await Compared() > 1);
        Assert.StartsWith("What runs is not what was sent from here last", Last(), StringComparison.Ordinal);
        bench.Host.SetLink("test", "cut", Workbench.Controller, new LinkQuality(1000, 100, 0));
        Assert.Equal(-1, await Compared());
        Assert.StartsWith("It could not be read back", Last(), StringComparison.Ordinal);

        async Task<int> Compared() => (await comparing.Compare(bench.Designed, default)).Changes;
        string Last() => bench.Store.Comparisons(null).Single().Sentence;
    }

    [Fact]
    public async Task Clocks_are_set_each_hour_and_comparisons_made_when_their_time_has_come()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        using Comparing comparing = Of(bench);
        comparing.Hours = 4;
        await comparing.Look(default);
        Assert.Single(bench.Store.Comparisons(Workbench.Controller.Value));
        // 36 millionths fast: 0.1296 s an hour, 3.1 s a day.
        bench.Host.Ask(_ => bench.Device.Door = bench.Device.Door! with { DriftMillionths = 36 });
        void Hours(int n)
        {
            for (int i = 0; i < n * 6; i++) bench.Host.RunAhead(bench.Host.Pulse().Now + 600_000);
        }
        Hours(2);
        await comparing.Look(default);
        KeptContact kept = bench.Contacts.Find(Workbench.Controller)!;
        Assert.InRange(kept.ClockOffset!.Value, 255, 262);
        Assert.Equal(3.11, kept.ClockDrift!.Value, 0.05);
        Assert.InRange(bench.Device.Door!.OffsetAt(bench.Host.Pulse().Now), -1, 1);
        Assert.Single(bench.Store.Comparisons(Workbench.Controller.Value));
        Hours(2);
        await comparing.Look(default);
        Assert.Equal(2, bench.Store.Comparisons(Workbench.Controller.Value).Count);
        comparing.Hours = 0;
        Hours(9);
        await comparing.Look(default);
        Assert.Equal(2, bench.Store.Comparisons(Workbench.Controller.Value).Count);
    }

    [Fact]
    public async Task What_hangs_is_taken_down_whole_and_stays_down_over_a_restart()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        bench.Host.TakeDown("engineer", "Taken down", Workbench.Controller);
        Assert.Empty(bench.Host.AllInstalled());
        Assert.Null(bench.Host.Read(KilnRoom.Temperature));
        Assert.Empty(await bench.Contacts.Discover(null, default));
        bench.Kill();
        Assert.Empty(bench.Host.AllInstalled());
        await bench.Met(bench.Hang());
        bench.Contacts.Forget(Workbench.Controller);
        await bench.SetUp();
        Assert.Equal(bench.DesignHash, bench.Device.Hash);
    }
}

/// <summary>What is left over, over HTTP: listed with reasons, removed from everywhere at once by those with the right to.</summary>
public class OrphanEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    [Fact]
    public async Task A_log_that_was_removed_and_sent_is_left_over_until_somebody_removes_it()
    {
        Client engineer = await server.As("engineer"), technician = await server.As("technician");
        Assert.Empty((await technician.Read("/api/orphans"))["leftOver"]!.AsArray());
        TrendLog log = server.Get<Workspace>().Project.All<TrendLog>().First(t => t.Id.Value == "tr-kiln-temp");
        (await engineer.Post("/api/changes", new { edits = new[] { new { remove = log.Id } } })).EnsureSuccessStatusCode();
        // Not sent yet: the controller keeps it, and it is what the project does not know.
        JsonNode list = await technician.Read("/api/orphans");
        Assert.Empty(list["leftOver"]!.AsArray());
        Assert.Contains(list["unknown"]!.AsArray(), u => (string)u!["id"]! == "tr-kiln-temp");
        JobView sent = await server.Get<JobRunner>().Finish((string)JsonNode.Parse(await (await technician.Post("/api/commission/kh-c1/send")).Content.ReadAsStringAsync())!["id"]!);
        Assert.True(sent.State == JobState.Done, sent.Message);
        JsonNode orphan = Assert.Single((await technician.Read("/api/orphans"))["leftOver"]!.AsArray())!;
        Assert.Equal("log|tr-kiln-temp", (string)orphan["key"]!);
        var request = new { keys = new[] { "log|tr-kiln-temp" }, why = "the trend is not wanted" };
        Assert.Equal(HttpStatusCode.Forbidden, (await technician.Post("/api/orphans/remove", request)).StatusCode);
        Assert.Contains("Say why", await Client.Detail(await engineer.Post("/api/orphans/remove", new { request.keys, why = " " })), StringComparison.Ordinal);
        (await engineer.Post("/api/orphans/remove", request)).EnsureSuccessStatusCode();
        Assert.Empty((await technician.Read("/api/orphans"))["leftOver"]!.AsArray());
        Assert.Equal(0, server.Get<HistoryStore>().Count(log.Id));
        Assert.Contains((await technician.Read("/api/trail")).AsArray(), t => ((string)t!["what"]!).Contains("the trend is not wanted", StringComparison.Ordinal));
        Assert.Contains("not left over any more", await Client.Detail(await engineer.Post("/api/orphans/remove", request)), StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_runs_is_taken_over_singly_and_undone_like_any_edit()
    {
        Client engineer = await server.As("engineer");
        // The demo's design is one edit ahead of KH-C4: the gallery's setpoint.
        JsonNode back = await engineer.Read("/api/commission/kh-c4/read-back");
        Assert.Equal("gal-sp", (string)Assert.Single(back["lines"]!.AsArray())!["difference"]!["id"]!);
        (await engineer.Post("/api/commission/kh-c4/take-over", new { ids = new[] { "gal-sp" } })).EnsureSuccessStatusCode();
        Assert.Equal("KH-C4 runs exactly the design.", (string)(await engineer.Read("/api/commission/kh-c4/read-back"))["sentence"]!);
        Assert.Contains("Nothing of what was chosen differs", await Client.Detail(await engineer.Post("/api/commission/kh-c4/take-over", new { ids = new[] { "gal-sp" } })), StringComparison.Ordinal);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Single((await engineer.Read("/api/commission/kh-c4/read-back"))["lines"]!.AsArray());
    }
}

/// <summary>A controller that is not heard: late at first, silent once that has lasted as long as it may; what it kept meanwhile comes when it is heard again.</summary>
public class DeviceLinkTests(DemoServer server) : IClassFixture<DemoServer>
{
    [Fact]
    public async Task Late_comes_before_silent_and_a_cut_line_loses_no_sample()
    {
        Client technician = await server.As("technician");
        var host = server.Get<Installation.SiteHost>();
        async Task<(string Link, string Says, int Silent)> Now()
        {
            JsonNode device = (await technician.Read("/api/devices")).AsArray().Single(d => (string)d!["standing"]!["id"]! == "bn-c1")!;
            return ((string)device["link"]!, (string)device["says"]!, (int)(await technician.Read("/api/site"))["silent"]!);
        }
        Assert.Equal(("heard", "runs its program", 0), await Now());
        var link = host.Hung().Single(h => h.HostId.Value == "bn-c1").Link;
        (await technician.Post("/api/contacts/bn-c1/link", link with { LossPercent = 100 })).EnsureSuccessStatusCode();
        host.SetClock("engineer", null, null, 59);
        Assert.Equal(("late", "late", 0), await Now());
        // Whatever it says now is old, from the first moment on.
        Assert.True((host.Read(new("mix-sp"))!.Value.Status & Core.Status.StatusFlags.Stale) != 0);
        Assert.Contains("BN-C1 does not answer", await Client.Detail(await technician.Post("/api/held", new { pointId = "mix-valve", value = 30, why = "x", minutes = 10 })), StringComparison.Ordinal);
        Assert.StartsWith("BN-C1 does not answer at", (string)(await technician.Read("/api/commission/bn-c1/plan"))["trouble"]!, StringComparison.Ordinal);
        host.SetClock("engineer", null, null, 1);
        Assert.Equal(("silent", "silent", 1), await Now());
        host.SetClock("engineer", null, null, 3600);
        (await technician.Post("/api/contacts/bn-c1/link", link)).EnsureSuccessStatusCode();
        host.SetClock("engineer", null, null, 1);
        Assert.Equal(("heard", "runs its program", 0), await Now());
        // Its program went on: an hour at a sample a minute has no hole.
        server.Get<Supervision.SiteServer>().Collect();
        long now = host.Pulse().Now;
        TrendLog log = server.Get<Workspace>().Project.All<TrendLog>().First(t => t.Mode == TrendMode.Interval && host.Ask(s => s.Devices[new("bn-c1")].Program!.Image.Records.Any(r => r.Id == t.Id)));
        long[] at = [.. server.Get<HistoryStore>().Samples(log.Id, now - 3_600_000, now).Select(s => s.AtMilliseconds)];
        Assert.InRange(at.Length, (int)(3600 / log.IntervalSeconds) - 1, (int)(3600 / log.IntervalSeconds) + 1);
        Assert.All(at.Zip(at.Skip(1)), p => Assert.Equal(log.IntervalSeconds * 1000, p.Second - p.First, 1.0));
    }
}

/// <summary>A day of the design beside what runs, over HTTP.</summary>
[Trait("Takes", "long")]
public class DayRehearsalTests(DemoServer server) : IClassFixture<DemoServer>
{
    [Fact]
    public async Task A_lower_setpoint_is_seen_over_a_day_before_it_is_sent()
    {
        Client technician = await server.As("technician");
        Assert.Equal(HttpStatusCode.NoContent, (await technician.Get("/api/commission/kh-c4/day")).StatusCode);
        // The demo's design is one edit ahead of KH-C4: the gallery's setpoint, 19.5 °C instead of 20.
        JobView done = await server.Get<JobRunner>().Finish((string)JsonNode.Parse(await (await technician.Post("/api/commission/kh-c4/day")).Content.ReadAsStringAsync())!["id"]!);
        Assert.True(done.State == JobState.Done, done.Message);
        JsonNode day = await technician.Read("/api/commission/kh-c4/day");
        Assert.Equal((1440, true), ((int)day["minutes"]!, (bool)day["isCurrent"]!));
        JsonNode setpoint = day["lines"]!.AsArray().Single(l => (string)l!["id"]! == "gal-sp")!;
        Assert.Equal((1440, "0.5 K", "20.0 °C", "19.5 °C"), ((int)setpoint["minutes"]!, (string)setpoint["most"]!, (string)setpoint["before"]!, (string)setpoint["after"]!));
        // Nothing of it has happened.
        Assert.Equal(1, (int)(await technician.Read("/api/commission/kh-c4"))["version"]!);
        // What has changed since makes it an old day.
        Client engineer = await server.As("engineer");
        var limit = server.Get<Workspace>().Project.Find<Core.Points.Point>(new("gal-sp"))!;
        await engineer.Change(Core.Projects.Edit.Of(limit with { Fallback = 18 }));
        Assert.False((bool)(await technician.Read("/api/commission/kh-c4/day"))["isCurrent"]!);
    }

    /// <summary>The demo's controllers hear of each other over a network with chance in it, and one sensor is torn off: laid beside itself, some at each of three moments, each differs in nothing.</summary>
    [Fact]
    public void Each_of_several_controllers_beside_itself_differs_in_nothing()
    {
        Installation.IVirtualSite site = server.Get<Installation.SiteHost>();
        int[] moments = [1, 7, 13];
        for (int moment = 0; moment < moments.Length; moment++)
        {
            site.SetClock("engineer", null, null, moments[moment]);
            foreach (var (_, installed) in site.AllInstalled().Index().Where(i => i.Index % moments.Length == moment))
            {
                int day = site.BeginDay(installed.Id, installed.Kind, site.ImageOf(installed.Id)!);
                for (int i = 0; i < 6; i++) Assert.Null(site.RunDay(day, 60));
                Assert.Empty(site.EndDay(day));
            }
        }
    }
}
