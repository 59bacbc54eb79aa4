using Microsoft.Extensions.Logging.Abstractions;
using LoftyWren.VirtualSite.Plant;
using LoftyWren.Storage.Site;
using LoftyWren.Core.Records;
using System.Text.Json;
using System.Text;
using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using Microsoft.AspNetCore.SignalR.Client;

namespace LoftyWren.Server.Tests;

public class InstallationTests(DemoServer server) : IClassFixture<DemoServer>
{
    private async Task<JobView> Finished(Client client, string controller)
    {
        JsonNode job = JsonNode.Parse(await (await client.Post($"/api/commission/{controller}/send")).Content.ReadAsStringAsync())!;
        return await server.Get<JobRunner>().Finish(job["id"]!.GetValue<string>());
    }

    /// <summary>Nothing simulated is left behind unnoticed: it is marked where it is read, listed, a finding of the site that nobody can silence, and gone with its hold.</summary>
    [Fact]
    public async Task What_is_simulated_is_seen_everywhere_until_it_is_let_go()
    {
        Client technician = await server.As("technician");
        bool ran = (bool)(await technician.Read("/api/site"))["running"]!;
        int before = (int)(await technician.Read("/api/project"))["findings"]!;
        Assert.Contains("Line 2, character 4", await Client.Detail(await technician.Post("/api/held/inputs", new { pointId = "kiln-temp", value = 0, why = "trying", minutes = 10, course = "20 °C\n30 furlongs" })));
        Assert.Contains("is not a value", await Client.Detail(await technician.Post("/api/held/inputs", new { pointId = "kiln-temp", value = 0, why = "trying", minutes = 10, course = "5000 °C over 10 min" })));
        Assert.Contains("only an input", await Client.Detail(await technician.Post("/api/held", new { pointId = "kiln-fan", value = 1, why = "trying", minutes = 10, course = "on for 10 min" })));
        (await technician.Post("/api/held/inputs", new { pointId = "kiln-temp", value = 0, why = "trying", minutes = (double?)null, course = "26 °C for 10 min\nbroken for 1 min\nagain" })).EnsureSuccessStatusCode();
        (await technician.Post("/api/site/clock", new { running = false, stepSeconds = 10 })).EnsureSuccessStatusCode();
        JsonNode held = Assert.Single((await technician.Read("/api/held")).AsArray(), h => (bool)h!["isInput"]!)!;
        Assert.Equal("26 °C for 10 min\nbroken for 1 min\nagain", (string?)held["course"]);
        JsonNode finding = Assert.Single((await technician.Read("/api/findings?words=simulated"))["findings"]!.AsArray(), f => (string?)f!["code"] == "simulated")!;
        Assert.True((bool)finding["isOfSite"]!);
        Assert.Equal(before + 1, (int)(await technician.Read("/api/project"))["findings"]!);
        Assert.Contains((await technician.Read("/api/records/kiln-temp"))["findings"]!.AsArray(), f => (string?)f!["code"] == "simulated");
        Assert.Contains("simulated", (string?)(await technician.Read("/api/why/kiln-temp"))["fact"], StringComparison.Ordinal);
        Assert.Contains("is gone", await Client.Detail(await (await server.As("engineer")).Post("/api/findings/silence", new { key = (string?)finding["key"], recordId = "kiln-temp", reason = "no matter" })));
        (await technician.Post("/api/held/release", new { pointId = "kiln-temp" })).EnsureSuccessStatusCode();
        Assert.Equal(before, (int)(await technician.Read("/api/project"))["findings"]!);
        // All at once; and one whose time is over goes by itself, with its finding.
        foreach (string point in (string[])["kiln-temp", "shop-temp"]) (await technician.Post("/api/held/inputs", new { pointId = point, value = 20, why = "trying", minutes = 1 })).EnsureSuccessStatusCode();
        Assert.Equal(before + 2, (int)(await technician.Read("/api/project"))["findings"]!);
        Assert.Equal(HttpStatusCode.Forbidden, (await (await server.As("operator")).Post("/api/held/inputs/release")).StatusCode);
        (await technician.Post("/api/held/inputs/release")).EnsureSuccessStatusCode();
        Assert.Equal(before, (int)(await technician.Read("/api/project"))["findings"]!);
        (await technician.Post("/api/held/inputs", new { pointId = "kiln-temp", value = 20, why = "trying", minutes = 1 })).EnsureSuccessStatusCode();
        (await technician.Post("/api/site/clock", new { running = false, stepSeconds = 70 })).EnsureSuccessStatusCode();
        server.Get<SiteServer>().Collect();
        Assert.Equal(before, (int)(await technician.Read("/api/project"))["findings"]!);
        (await technician.Post("/api/site/clock", new { running = ran })).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task Sending_brings_the_design_to_the_site_and_reading_back_proves_it()
    {
        Client technician = await server.As("technician"), engineer = await server.As("engineer");
        Point setpoint = server.Get<Workspace>().Project.Find<Point>(new("mix-sp"))!;
        await engineer.Change(Edit.Of(setpoint with { Fallback = 18.5 }));
        JsonNode review = await technician.Read("/api/commission/bn-c1");
        JsonNode field = Assert.Single(Assert.Single(review["differences"]!.AsArray())!["fields"]!.AsArray())!;
        Assert.Equal(("fallback", "17", "18.5"), (field["field"]!.GetValue<string>(), field["before"]!.GetValue<string>(), field["after"]!.GetValue<string>()));
        Assert.Equal(JobState.Done, (await Finished(technician, "bn-c1")).State);
        JsonNode back = await technician.Read("/api/commission/bn-c1/read-back");
        Assert.Equal("BN-C1 runs exactly the design.", back["sentence"]!.GetValue<string>());
        Assert.Equal(review["designHash"]!.GetValue<string>(), back["hash"]!.GetValue<string>());
        Assert.Contains((await technician.Read("/api/trail")).AsArray(), t => t!["what"]!.GetValue<string>() == "Sent BN-C1, version 2" && t["who"]!.GetValue<string>() == "technician");
    }

    [Fact]
    public async Task An_output_is_held_with_a_reason_and_a_trace_and_released()
    {
        Client person = await server.As("operator");
        Assert.Contains("Say why", await Client.Detail(await person.Post("/api/held", new { pointId = "throw-valve", value = 30, why = " ", minutes = 10 })));
        Assert.Contains("400 is not a value ‘Heating valve’ can take", await Client.Detail(await person.Post("/api/held", new { pointId = "throw-valve", value = 400, why = "x", minutes = 10 })));
        Assert.Contains("is a sensor", await Client.Detail(await person.Post("/api/held", new { pointId = "kiln-temp", value = 20, why = "x", minutes = 10 })));
        (await person.Post("/api/held", new { pointId = "throw-valve", value = 30, why = "valve exercise", minutes = 10 })).EnsureSuccessStatusCode();
        server.Get<SiteHost>().SetClock("engineer", null, null, 2);
        Assert.Contains("held by hand by operator", (await person.Read("/api/why/throw-valve"))["fact"]!.GetValue<string>());
        JsonNode ladder = await person.Read("/api/ladders/throw-valve");
        Assert.Equal((8, "30.0 %"), (ladder["winner"]!.GetValue<int>(), ladder["says"]!.GetValue<string>()));
        (await person.Post("/api/held/release", new { pointId = "throw-valve" })).EnsureSuccessStatusCode();
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await person.Post("/api/held/release", new { pointId = "throw-valve" })).StatusCode);
        var trail = (await person.Read("/api/trail")).AsArray().Select(t => t!["what"]!.GetValue<string>()).ToList();
        Assert.Contains("Released ‘Heating valve’", trail);
        Assert.Contains("Held ‘Heating valve’ by hand at 30.0 % for 10 min: valve exercise", trail);
    }

    [Fact]
    public async Task A_late_joiner_gets_everything_first_and_then_only_what_changes()
    {
        Client viewer = await server.As("viewer");
        await using HubConnection hub = new HubConnectionBuilder().WithUrl($"{server.Address}/live", o => o.Cookies = viewer.Cookies).Build();
        var batches = new List<JsonNode>();
        hub.On<JsonNode>("live", batch =>
        {
            lock (batches) batches.Add(batch);
        });
        await hub.StartAsync();
        await hub.InvokeAsync("Watch", new[] { "p:kiln-temp", "p:kiln-limit", "p:no-such", "s:hours", "b:kiln-seq/high/out" });
        await Until(() => batches.Count > 0);
        var first = batches[0].AsArray().ToDictionary(v => v!["id"]!.GetValue<string>(), v => v!["text"]!.GetValue<string>());
        Assert.Equal(5, first.Count);
        Assert.EndsWith("°C", first["p:kiln-temp"]);
        Assert.Equal(("29.0 °C", "–", "open", "released"), (first["p:kiln-limit"], first["p:no-such"], first["s:hours"], first["b:kiln-seq/high/out"]));
        await Task.Delay(1000);
        Assert.Single(batches);
        server.Get<SiteHost>().SetClock("engineer", null, null, 30);
        await Until(() => batches.Count > 1);
        Assert.Equal(["p:kiln-temp"], batches.Skip(1).SelectMany(b => b.AsArray()).Select(v => v!["id"]!.GetValue<string>()).Distinct());
    }

    [Fact]
    public async Task The_hub_is_closed_to_those_who_are_not_signed_in_and_to_greed()
    {
        await using HubConnection nobody = new HubConnectionBuilder().WithUrl($"{server.Address}/live").Build();
        await Assert.ThrowsAsync<HttpRequestException>(() => nobody.StartAsync());
        Client viewer = await server.As("viewer");
        await using HubConnection hub = new HubConnectionBuilder().WithUrl($"{server.Address}/live", o => o.Cookies = viewer.Cookies).Build();
        await hub.StartAsync();
        var error = await Assert.ThrowsAsync<Microsoft.AspNetCore.SignalR.HubException>(() => hub.InvokeAsync("Watch", Enumerable.Range(0, 5001).Select(i => $"p:{i}")));
        Assert.Contains("At most 5000 values", error.Message);
    }

    [Fact]
    public async Task Every_edit_is_told_to_open_clients_at_once()
    {
        Client viewer = await server.As("viewer"), engineer = await server.As("engineer");
        await using HubConnection hub = new HubConnectionBuilder().WithUrl($"{server.Address}/live", o => o.Cookies = viewer.Cookies).Build();
        JsonNode? told = null;
        hub.On<JsonNode>("changed", change => told = change);
        await hub.StartAsync();
        var gate = server.Get<Workspace>().Project.Find<Core.Places.Place>(new("yd-g-gate"))!;
        await engineer.Change(Edit.Of(gate with { Name = "Quay gate" }));
        await Until(() => told is not null);
        Assert.Equal(("engineer", "Renamed room ‘Gate’ to ‘Quay gate’"), (told!["author"]!.GetValue<string>(), told["label"]!.GetValue<string>()));
    }

    /// <summary>The demo's tests pass, each is stale once what it rests on has changed, and fails once the logic is broken; the installed site notices none of it.</summary>
    [Fact]
    public async Task Tests_are_run_kept_and_go_stale_with_what_they_rest_on()
    {
        Client engineer = await server.As("engineer"), viewer = await server.As("viewer");
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post("/api/sequences/kiln-seq/tests/run")).StatusCode);
        async Task<string> States() => string.Join(' ', (await viewer.Read("/api/sequences/kiln-seq/tests"))["tests"]!.AsArray().Select(t => t!["state"]!.GetValue<string>()));
        async Task Run() => (await engineer.Post("/api/sequences/kiln-seq/tests/run")).EnsureSuccessStatusCode();
        await Run();
        Assert.Equal("passed passed passed passed", await States());
        var workspace = server.Get<Workspace>();
        long running = server.Get<SiteHost>().Pulse().Now;
        var sequence = workspace.Project.Find<Core.Sequences.Sequence>(new("kiln-seq"))!;
        long from = workspace.Project.FindEntry(sequence.Id)!.Revision;
        await engineer.Change(Edit.Of(sequence with { Blocks = [sequence.Blocks[0] with { Numbers = new Dictionary<string, double> { ["differential"] = 0.5 } }] }, from));
        Assert.Equal("stale stale stale stale", await States());
        await Run();
        Assert.Equal("failed passed passed failed", await States());
        Assert.Equal(running, server.Get<SiteHost>().Pulse().Now);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal("stale stale stale stale", await States());
        // Where nothing answers there is no plant: in words, whether it is run or broken on purpose.
        var shed = workspace.Project.Find<Core.Sequences.Sequence>(new("gate-seq"))!;
        await engineer.Change(Edit.Of(shed with { Blocks = [], Commands = [], Clauses = [], Tests = [new Core.Proofs.FunctionTest { Id = "p", Name = "P", On = Core.Proofs.TestGround.Plant, Steps = [new Core.Proofs.WaitStep(1)] }] }, workspace.Project.FindEntry(shed.Id)!.Revision));
        var gone = JsonNode.Parse(await (await engineer.Post("/api/sequences/gate-seq/tests/run")).Content.ReadAsStringAsync())!;
        Assert.Contains("no plant to answer", gone["tests"]![0]!["proof"]!["steps"]![0]!["says"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("no plant to answer", await Client.Detail(await engineer.Post("/api/sequences/gate-seq/tests/break", new { })), StringComparison.Ordinal);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        // What lives with its plant rests on the rooms as well; the others do not.
        await Run();
        var room = workspace.Project.Find<Core.Places.Place>(workspace.Project.Find<Core.Points.Point>(new("kiln-temp"))!.OwnerId)!;
        await engineer.Change(Edit.Of(room with { AreaSquareMetres = 99 }));
        Assert.Equal("passed passed passed stale", await States());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal("passed passed passed passed", await States());
        var read = JsonNode.Parse(await (await engineer.Post("/api/sequences/kiln-seq/tests/read", new { text = "set Room temperature to 451 °F\nhope" })).Content.ReadAsStringAsync())!;
        // 451 °F are 232.8 °C.
        Assert.Equal(232.8, read["steps"]![0]!["value"]!.GetValue<double>(), 0.05);
        Assert.Equal(2, read["problems"]![0]!["line"]!.GetValue<int>());
        Assert.Equal("A test has at most 20000 characters.", await Client.Detail(await engineer.Post("/api/sequences/kiln-seq/tests/read", new { text = new string('x', 20_001) })));
    }

    /// <summary>On a copy of the site what was sent is tried: it passes, disturbs nothing, and is stale once another program runs there, though the drawing is what it was.</summary>
    [Fact]
    public async Task A_test_on_a_copy_of_the_site_rests_on_what_runs_there()
    {
        Client engineer = await server.As("engineer");
        var workspace = server.Get<Workspace>();
        var sequence = workspace.Project.Find<Core.Sequences.Sequence>(new("glaze-seq"))!;
        var fan = new Core.Proofs.TestSubject { PointId = sequence.Commands[0].PointId };
        var presence = new Core.Proofs.TestSubject { PointId = sequence.Sources().Select(x => x.Source).OfType<Core.Sequences.PointSource>().First().PointId };
        var onSite = new Core.Proofs.FunctionTest { Id = "site", Name = "On the site", On = Core.Proofs.TestGround.Site, Steps = [new Core.Proofs.SetStep(1) { Subject = presence }, new Core.Proofs.ExpectStep(new Core.Proofs.TestCondition(Core.Proofs.TestRelation.Is, 1), 10) { Subject = fan }] };
        async Task<string> State() => (await engineer.Read("/api/sequences/glaze-seq/tests"))["tests"]!.AsArray().Single(x => x!["id"]!.GetValue<string>() == "site")!["state"]!.GetValue<string>();
        async Task Put(Func<Core.Sequences.Sequence, Core.Sequences.Sequence> change) => await engineer.Change(Edit.Of(change(workspace.Project.Find<Core.Sequences.Sequence>(sequence.Id)!), workspace.Project.FindEntry(sequence.Id)!.Revision));
        await Put(x => x with { Tests = [.. x.Tests, onSite] });
        (await engineer.Post("/api/sequences/glaze-seq/tests/run")).EnsureSuccessStatusCode();
        Assert.Equal("passed", await State());
        Assert.DoesNotContain((await engineer.Read("/api/held")).AsArray(), h => (bool)h!["isInput"]!);
        await Put(x => x with { ScanSeconds = x.ScanSeconds * 2 });
        JobView sent = await Finished(engineer, sequence.ControllerId!.Value.Value);
        Assert.Equal(JobState.Done, sent.State);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal("stale", await State());
        await Finished(engineer, sequence.ControllerId!.Value.Value);
        (await engineer.Post("/api/sequences/glaze-seq/tests/run")).EnsureSuccessStatusCode();
        Assert.Equal("passed", await State());
        await Put(x => x with { Tests = sequence.Tests });
    }

    /// <summary>Each clause of the demo is proven by a test that passes, and of its logic broken on purpose, one thing at a time, the tests notice nineteen in twenty.</summary>
    [Fact]
    [Trait("Takes", "long")]
    public async Task The_demo_is_proven_and_its_tests_notice_what_is_broken()
    {
        Client engineer = await server.As("engineer");
        JsonNode job = JsonNode.Parse(await (await engineer.Post("/api/proofs", new { sequences = Array.Empty<string>(), onlyChanged = false })).Content.ReadAsStringAsync())!;
        await server.Get<JobRunner>().Finish(job["id"]!.GetValue<string>());
        var lines = (await engineer.Read("/api/proofs")).AsArray();
        Assert.True(lines.Count > 80);
        Assert.All(lines, l => Assert.True(l!["tests"]!.GetValue<int>() == l["passed"]!.GetValue<int>() && l["clauses"]!.GetValue<int>() == l["proven"]!.GetValue<int>() && l["unasked"]!.AsArray().Count == 0, $"{l}"));
        int ways = 0, noticed = 0;
        // One sequence of each sort: those of like rooms are alike.
        foreach (string id in (string[])["ahu-seq", "ahu-air-seq", "circ-air-seq", "circ-fc-seq", "circ-barn-seq", "boiler-1-seq", "gas-seq", "dry-humid-seq", "shop-seq", "zone-gal-seq", "off-blinds-seq", "gate-seq", "glaze-seq", "hp-seq", "hp-mode-seq", "kiln-1-seq", "kiln-seq", "hall-seq", "hall-l-seq", "throw-light-seq", "track-seq", "vent-seq", "wash-extract-seq", "shed-seq"])
        {
            JsonNode broken = JsonNode.Parse(await (await engineer.Post($"/api/sequences/{id}/tests/break", new { })).Content.ReadAsStringAsync())!;
            Assert.True(broken["all"]!.GetValue<bool>());
            ways += broken["ways"]!.AsArray().Count;
            noticed += broken["ways"]!.AsArray().Count(w => w!["caughtBy"] is not null);
        }
        Assert.True(ways > 440 && noticed >= 0.95 * ways, $"{noticed} of {ways} were noticed.");
    }

    /// <summary>The figures are those of the demo: the damper goes from 30 % at 600 ppm to 100 % at 1000 ppm, so 90 % is reached at 942.9 ppm; the unit stands for a minute after power has returned.</summary>
    [Fact]
    public async Task What_it_would_take_and_what_befalls_an_output_is_tried_beside_the_site()
    {
        Client viewer = await server.As("viewer");
        server.Get<SiteHost>().SetClock("engineer", null, null, 5);
        async Task<JsonNode> WhyNot(string point, object condition) => JsonNode.Parse(await (await viewer.Post($"/api/why-not/{point}", condition)).EnsureSuccessStatusCode().Content.ReadAsStringAsync())!;
        JsonNode damper = await WhyNot("vent-damper", new { relation = "above", value = 90, upper = 0 });
        Assert.Matches(@"If Return air CO₂ were 942\.9 ppm or more \(it is", damper["under"]!.ToJsonString(RecordJson.Options));
        double before = (await viewer.Read("/api/why/vent-damper"))["fact"]!.GetValue<string>().Length;
        JsonNode fan = await WhyNot("vent-fan", new { relation = "is", value = 0, upper = 0 });
        Assert.Contains(fan["under"]!.AsArray(), u => u!["fact"]!.GetValue<string>().StartsWith("If Opening hours said closed (it says open)", StringComparison.Ordinal));
        Assert.Equal(before, (await viewer.Read("/api/why/vent-damper"))["fact"]!.GetValue<string>().Length);
        Assert.Contains("is measured, not commanded", await Client.Detail(await viewer.Post("/api/why-not/vent-co2", new { relation = "above", value = 1, upper = 0 })));
        Assert.Equal(HttpStatusCode.NotFound, (await viewer.Post("/api/why-not/nothing", new { relation = "is", value = 1, upper = 0 })).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await viewer.Post("/api/why-not/vent-fan", new { relation = "perhaps", value = 1, upper = 0 })).StatusCode);
        var trials = (await viewer.Read("/api/outputs/vent-fan/trials")).AsArray().ToDictionary(t => t!["when"]!.GetValue<string>(), t => t!["says"]!.GetValue<string>());
        Assert.Matches("^off, on after 6[0-4] s$", trials["power was gone for 30 s"]);
        Assert.Equal("6.RO2 is at rest: open", trials["its program is stopped, or power is gone"]);
    }

    [Fact]
    public async Task The_last_scans_are_kept_stepped_through_and_stop_on_a_condition()
    {
        Client viewer = await server.As("viewer");
        Assert.Contains("no scans to look back at", await Client.Detail(await viewer.Get("/api/sequences/kiln-seq/scans")));
        Assert.Contains("not a value of this sequence", await Client.Detail(await viewer.Post("/api/sequences/kiln-seq/scans", new { stop = new { address = "p:throw-valve", condition = new { relation = "is", value = 1, upper = 0 } } })));
        (await viewer.Post("/api/sequences/kiln-seq/scans", new { stop = (object?)null })).EnsureSuccessStatusCode();
        server.Get<SiteHost>().SetClock("engineer", null, null, 10);
        JsonNode kept = await viewer.Read("/api/sequences/kiln-seq/scans");
        Assert.True(kept["at"]!.AsArray().Count >= 10, $"{kept["at"]!.AsArray().Count} scans");
        var values = (await viewer.Read("/api/sequences/kiln-seq/scans/3")).AsArray();
        Assert.Equal(kept["addresses"]!.AsArray().Select(a => a!.GetValue<string>()), values.Select(v => v!["id"]!.GetValue<string>()));
        Assert.EndsWith("°C", values.Single(v => v!["id"]!.GetValue<string>() == "p:kiln-temp")!["text"]!.GetValue<string>());
        Assert.Equal(kept["at"]!.AsArray()[2]!.GetValue<long>(), values[0]!["t"]!.GetValue<long>());
        Assert.Empty((await viewer.Read("/api/sequences/kiln-seq/scans/3/against/3")).AsArray());
        Assert.Equal(kept["at"]!.AsArray().Count, (await viewer.Read("/api/sequences/kiln-seq/scans/course?address=p:kiln-temp"))["values"]!.AsArray().Count);
        Assert.Contains("no longer kept", await Client.Detail(await viewer.Get("/api/sequences/kiln-seq/scans/99999")));
    }

    [Fact]
    public async Task The_logic_leaves_as_a_diagram_and_as_text_and_a_diagram_comes_in()
    {
        Client viewer = await server.As("viewer"), engineer = await server.As("engineer");
        byte[] xml = await (await viewer.Get("/api/sequences/vent-seq/logic.xml")).EnsureSuccessStatusCode().Content.ReadAsByteArrayAsync();
        string text = await (await viewer.Get("/api/sequences/vent-seq/logic.st")).Content.ReadAsStringAsync();
        Assert.Contains("PROGRAM Ventilation_unit", text, StringComparison.Ordinal);
        Assert.Matches(@"Leave_\d : REAL := 300\.0;", text);
        Task<HttpResponseMessage> Bring(Client client, byte[] file) => client.Http.PostAsync("/api/sequences/vent-seq/logic/read", new ByteArrayContent(file));
        JsonNode reading = JsonNode.Parse(await (await Bring(engineer, xml)).EnsureSuccessStatusCode().Content.ReadAsStringAsync())!;
        Assert.Empty(reading["notes"]!.AsArray());
        Assert.Equal((await viewer.Read("/api/sequences/vent-seq"))["sequence"]!.ToJsonString(), reading["sequence"]!.ToJsonString());
        Assert.Contains("no XML that can be read: line 1", await Client.Detail(await Bring(engineer, "nonsense"u8.ToArray())));
        Assert.Equal(HttpStatusCode.Forbidden, (await Bring(viewer, xml)).StatusCode);
    }

    /// <summary>Two engineers on one sequence: what is apart goes together, each takes back what is theirs; what is not is asked about.</summary>
    [Fact]
    public async Task Two_engineers_edit_one_sequence_side_by_side()
    {
        Client one = await server.As("engineer"), other = await server.As("administrator");
        JsonNode seen = await one.Read("/api/sequences/shed-seq");
        long revision = seen["revision"]!.GetValue<long>();
        JsonNode With(Action<JsonNode> change)
        {
            JsonNode sequence = seen["sequence"]!.DeepClone();
            sequence["type"] = "sequence";
            change(sequence);
            return sequence;
        }
        object Edits(JsonNode put) => new { edits = new[] { new { put, from = revision } } };
        string first = seen["sequence"]!["blocks"]![0]!["id"]!.GetValue<string>();
        (await one.Post("/api/changes", Edits(With(s => s["blocks"]![0]!["label"] = "As one calls it")))).EnsureSuccessStatusCode();
        (await other.Post("/api/changes", Edits(With(s => s["scanSeconds"] = 17)))).EnsureSuccessStatusCode();
        JsonNode both = (await one.Read("/api/sequences/shed-seq"))["sequence"]!;
        Assert.Equal(("As one calls it", 17d), (both["blocks"]![0]!["label"]!.GetValue<string>(), both["scanSeconds"]!.GetValue<double>()));
        Assert.Equal(HttpStatusCode.Conflict, (await other.Post("/api/changes", Edits(With(s => s["blocks"]![0]!["label"] = "As the other calls it")))).StatusCode);
        (await one.Post("/api/undo")).EnsureSuccessStatusCode();
        JsonNode undone = (await one.Read("/api/sequences/shed-seq"))["sequence"]!;
        Assert.Equal(17d, undone["scanSeconds"]!.GetValue<double>());
        Assert.NotEqual("As one calls it", undone["blocks"]![0]!["label"]?.GetValue<string>());
        Assert.Equal(first, undone["blocks"]![0]!["id"]!.GetValue<string>());
    }

    /// <summary>A ledger is read, kept like any edit, compared with what runs; blocks are taken together and apart; who may not edit may not.</summary>
    [Fact]
    public async Task A_ledger_is_kept_and_compared_with_what_runs()
    {
        Client engineer = await server.As("engineer"), viewer = await server.As("viewer");
        JsonNode ledger = await viewer.Read("/api/sequences/kiln-seq/ledger");
        string text = ledger["text"]!.GetValue<string>();
        Assert.True(ledger["runs"]!.GetValue<bool>());
        Assert.Empty(ledger["against"]!.AsArray());
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post("/api/sequences/kiln-seq/ledger/read", new { text })).StatusCode);
        async Task<JsonNode> Ask(string path, object body) => JsonNode.Parse(await (await engineer.Post(path, body)).EnsureSuccessStatusCode().Content.ReadAsStringAsync())!;
        JsonNode wrong = await Ask("/api/sequences/kiln-seq/ledger/read", new { text = text + "\nX = not Nothing of the sort" });
        Assert.Equal((3, 8), (wrong["problems"]![0]!["line"]!.GetValue<int>(), wrong["problems"]![0]!["at"]!.GetValue<int>()));
        JsonNode read = await Ask("/api/sequences/kiln-seq/ledger/read", new { text = text.Replace("differential: 2 K", "differential: 3 K", StringComparison.Ordinal) });
        var sequence = System.Text.Json.JsonSerializer.Deserialize<Core.Records.ProjectRecord>(WithType(read["sequence"]!), Core.Records.RecordJson.Options)!;
        await engineer.Change(Edit.Of(sequence, server.Get<Workspace>().Project.FindEntry(sequence.Id)!.Revision));
        var against = (await viewer.Read("/api/sequences/kiln-seq/ledger"))["against"]!.AsArray();
        Assert.Contains(against, d => d!["second"] is null && d["text"]!.GetValue<string>().Contains("differential: 2 K", StringComparison.Ordinal));
        Assert.Contains(against, d => d!["first"] is null && d["text"]!.GetValue<string>().Contains("differential: 3 K", StringComparison.Ordinal));
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        var offers = (await Ask("/api/sequences/kiln-seq/ledger/offers", new { text, line = "Y = not outdoor te", at = 18 })).AsArray();
        Assert.Contains(offers, o => o!["insert"]!.GetValue<string>().StartsWith("Outdoor temperature", StringComparison.Ordinal));
        JsonNode together = await Ask("/api/sequences/hp-seq/together", new { blocks = new[] { "call", "warm" }, name = "Both limits" });
        Assert.NotNull(together["blockId"]);
        Assert.Equal("Only an own block can be taken apart.", await Client.Detail(await engineer.Post("/api/sequences/hp-seq/apart/call", new { })));
        Assert.Equal(["One.", "Two."], (await Ask("/api/clauses/split", new { text = "1. One.\n2. Two." })).AsArray().Select(c => c!.GetValue<string>()));
        Assert.Null((await viewer.Read("/api/sequences/kiln-seq/modes/limit"))["now"]);
    }

    private static string WithType(JsonNode sequence)
    {
        sequence["type"] = "sequence";
        // The type of a record is read where it stands first.
        return $"{{\"type\":\"sequence\",{sequence.ToJsonString()[1..]}".Replace(",\"type\":\"sequence\"}", "}", StringComparison.Ordinal);
    }

    [Fact]
    public async Task Every_kind_of_block_on_offer_has_a_help_and_a_chart()
    {
        Client viewer = await server.As("viewer");
        var kinds = (await viewer.Read("/api/blocks")).AsArray();
        var stories = (await viewer.Read("/api/blocks/stories")).AsArray();
        Assert.Equal(kinds.Where(k => k!["definition"]!["isRetired"]?.GetValue<bool>() != true && k["definition"]!["isInner"]?.GetValue<bool>() != true).Select(k => k!["definition"]!["kind"]!.GetValue<string>()), stories.Select(s => s!["kind"]!.GetValue<string>()));
        Assert.All(stories, s => Assert.NotEmpty(s!["story"]!["lines"]!.AsArray()));
        HttpResponseMessage own = await viewer.Post("/api/blocks/story", new { id = "b", kind = "ton", numbers = new { pt = 600 } });
        Assert.Equal(3300, JsonNode.Parse(await own.Content.ReadAsStringAsync())!["seconds"]!.GetValue<double>());
    }

    [Fact]
    public async Task Trends_come_as_columns_and_as_CSV()
    {
        Client viewer = await server.As("viewer");
        long now = server.Get<SiteHost>().Clock().Now;
        JsonNode data = (await viewer.Read($"/api/trends/data?ids=tr-kiln-temp,tr-kiln-fan&from={now - 86_400_000}&to={now}&columns=100"))[0]!;
        Assert.InRange(data["at"]!.AsArray().Count, 95, 101);
        string[] csv = (await (await viewer.Get($"/api/trends/csv?ids=tr-kiln-temp,tr-kiln-fan&from={now - 3_600_000}&to={now}")).Content.ReadAsStringAsync()).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal("time,trend,value,unit,status", csv[0].Trim().TrimStart('\uFEFF'));
        Assert.InRange(csv.Count(l => l.Contains("Room temperature")), 59, 61);
        Assert.Matches(@"^2026-04-14T\d\d:\d\d:\d\d\+01,Kiln House › First floor › Kiln room › Room temperature,[\d.]+,°C,ok", csv[1]);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await viewer.Get("/api/trends/data?ids=tr-kiln-temp&from=5&to=5")).StatusCode);
    }

    [Fact]
    public async Task Why_answers_for_what_is_not_on_the_site_too()
    {
        Client viewer = await server.As("viewer");
        Assert.Contains("is on no terminal", (await viewer.Read("/api/why/kiln-1-temp"))["fact"]!.GetValue<string>());
        Assert.Contains("is not in alarm", (await viewer.Read("/api/why/al-kiln-temp"))["fact"]!.GetValue<string>());
        Assert.Contains("is in alarm since", (await viewer.Read("/api/why/al-shop-temp"))["fact"]!.GetValue<string>());
        Assert.Contains("cannot tell", (await viewer.Read("/api/why/al-pack-temp"))["fact"]!.GetValue<string>());
        JsonNode room = await viewer.Read("/api/why/kh-1-kiln-room");
        Assert.Equal("Kiln room: 8 to explain.", room["fact"]!.GetValue<string>());
        string[] facts = [.. room["under"]!.AsArray().Select(u => u!["fact"]!.GetValue<string>())];
        Assert.Single(facts, f => f.StartsWith("Extract: Extract fan is ", StringComparison.Ordinal));
        Assert.Equal(2, facts.Count(f => f.Contains("Kiln temperature has no value", StringComparison.Ordinal)));
        JsonArray building = (await viewer.Read("/api/why/kh"))["under"]!.AsArray();
        Assert.Equal(9, building.Count);
        Assert.StartsWith("And ", building[8]!["fact"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await viewer.Get("/api/why/hours")).StatusCode);
    }

    [Fact]
    public async Task An_alarm_is_acknowledged_once_with_a_note()
    {
        Client person = await server.As("operator");
        JsonNode alarm = (await person.Read("/api/alarms")).AsArray().First(a => a!["name"]!.GetValue<string>() == "Shop too warm")!;
        (await person.Post($"/api/alarms/{alarm["id"]}/acknowledge", new { note = "valve stuck, technician called" })).EnsureSuccessStatusCode();
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await person.Post($"/api/alarms/{alarm["id"]}/acknowledge", new { })).StatusCode);
        JsonNode after = (await person.Read("/api/alarms?all=true")).AsArray().First(a => a!["id"]!.ToString() == alarm["id"]!.ToString())!;
        Assert.Equal(("operator", "valve stuck, technician called"), (after["acknowledgedBy"]!.GetValue<string>(), after["note"]!.GetValue<string>()));
    }

    /// <summary>All controllers of a project sent at once onto a site on which nothing stands yet: each builds what it needs, and nobody builds over another.</summary>
    [Fact]
    public async Task Many_build_what_they_need_at_once_and_none_is_lost()
    {
        Project project = server.Get<Workspace>().Project;
        string folder = Directory.CreateTempSubdirectory("lofty-wren-many-").FullName;
        using (var store = new SiteStore(Path.Combine(folder, "site.db")))
        {
            var host = new SiteHost(store, TimeProvider.System, NullLogger.Instance);
            host.Open(0);
            var controllers = project.All<Core.Hardware.Controller>().ToList();
            await Task.WhenAll(controllers.Select(c => Task.Run(() => SiteBuilding.BuildFor(project, c, host, "test"))));
            Assert.All(controllers, c => Assert.Equal(SiteBuilder.WiresOf(project, c.Id), host.WiresOf(c.Id)));
            Assert.Equal(project.All<Core.Places.Place>().Count(p => p.Kind == Core.Places.PlaceKind.Room), host.Plan().Rooms.Count);
        }
        Directory.Delete(folder, recursive: true);
    }

    /// <summary>After a kill the site goes on from what was kept last, though more had been heard of it: no event is numbered like one that was seen already.</summary>
    [Fact]
    public void An_alarm_event_after_a_kill_is_new_to_whoever_saw_more_than_was_kept()
    {
        Project project = server.Get<Workspace>().Project;
        string folder = Directory.CreateTempSubdirectory("lofty-wren-killed-").FullName;
        using (var store = new SiteStore(Path.Combine(folder, "site.db")))
        {
            SiteHost Host()
            {
                var host = new SiteHost(store, TimeProvider.System, NullLogger.Instance);
                host.Open(SiteHost.Beginning);
                return host;
            }
            SiteHost before = Host();
            var controller = project.Find<Core.Hardware.Controller>(new("kh-c4"))!;
            byte[] bytes = Core.Images.HostKinds.Build(project, controller).ToBytes();
            SiteBuilding.BuildFor(project, controller, before, "test");
            var device = before.Ask(s => s.Mount(controller.Id));
            device.BeginSend(bytes.Length, Core.Images.HostKinds.HashOf(bytes));
            device.Receive(0, bytes);
            before.ChangeOver(device, new Core.Commissioning.ActivateOrder("test", controller.Name, [], true));
            before.Keep();
            long Last(SiteHost host) => host.Ask(s => s.Devices[controller.Id].Program!.LastEventNumber);
            // A sensor that is put far out of its range makes events that were not kept.
            before.HoldInput("test", "held", controller.Id, project.BindingOf(new("shop-temp"))!.Where, new HoldOrder(new("shop-temp"), 45, "to see", null));
            before.RunAhead(before.Pulse().Now + 600_000);
            long seen = Last(before);
            Assert.True(seen > 0);
            // No more is heard of that process; another takes up what it kept.
            SiteHost after = Host();
            Assert.True(Last(after) >= seen);
            after.RunAhead(after.Pulse().Now + 600_000);
            Assert.True(Last(after) > seen);
        }
        Directory.Delete(folder, recursive: true);
    }

    private static async Task Until(Func<bool> so)
    {
        for (int i = 0; i < 300 && !so(); i++) await Task.Delay(100);
        Assert.True(so());
    }

    /// <summary>Older versions kept plan and controllers in one part; such a folder opens, and from its first moment on each has a part of its own, so that nothing is lost by what is written next.</summary>
    [Fact]
    public async Task A_site_kept_as_older_versions_did_opens_and_is_kept_in_parts()
    {
        var kept = server.Get<SiteStore>();
        SitePlan plan = server.Get<SiteHost>().Ask(s => s.Plan);
        for (int i = 0; i < 100 && !kept.Read().ContainsKey("plant"); i++) await Task.Delay(100);
        var parts = new Dictionary<string, byte[]>(kept.Read());
        string[] controllers = [.. parts.Keys.Where(k => k.StartsWith("controller/", StringComparison.Ordinal))];
        Assert.True(controllers.Length > 1);
        var old = new JsonObject
        {
            ["speed"] = 60,
            ["running"] = true,
            ["plan"] = JsonSerializer.SerializeToNode(plan, RecordJson.Options),
            ["controllers"] = new JsonObject(controllers.Select(k => KeyValuePair.Create<string, JsonNode?>(k["controller/".Length..], WithoutWires(JsonNode.Parse(parts[k])!)))),
        };
        string folder = Directory.CreateTempSubdirectory("lofty-wren-older-").FullName;
        using (var store = new SiteStore(Path.Combine(folder, "site.db")))
        {
            store.Write(parts.Where(p => p.Key.StartsWith("image/", StringComparison.Ordinal) || p.Key.StartsWith("memory/", StringComparison.Ordinal) || p.Key == "plant").Select(p => (p.Key, p.Value)).Append(("site", Encoding.UTF8.GetBytes(old.ToJsonString()))));
            string[] pictures = [.. Enumerable.Range(0, 2).Select(_ =>
            {
                var host = new SiteHost(store, TimeProvider.System, NullLogger<SiteHost>.Instance);
                Assert.True(host.Open(0));
                // What was installed before there were connections can be met, with the factory's credentials; its clock is right.
                Assert.All(host.Hung(), h => Assert.True(host.Ask(s => s.Devices[h.HostId].Door is { IsFactory: true } door && Math.Abs(door.OffsetAt(s.Now)) < 1000 && s.Devices[h.HostId].Life.Runs)));
                Assert.Equal(controllers.Length, host.Hung().Count);
                return host.Ask(s => string.Join('\n', s.Devices.Values.Select(c => $"{c.Id} {c.Version} {c.Hash} {c.SentBy} {string.Join(',', s.WiresOf(c.Id).Select(w => $"{w.Terminal}={w.Quantity}"))}").Append($"{s.Built.Rooms.Count} {s.Built.Machines.Count} {s.Built.Faults.Count} {s.Built.Seed} {s.InputHolds.Count}")));
            })];
            Assert.Equal(controllers.Length + 1, pictures[0].Split('\n').Length);
            Assert.Contains("=room/", pictures[0]);
            Assert.Equal(pictures[0], pictures[1]);
            Assert.DoesNotContain("controllers", Encoding.UTF8.GetString(store.Read()["site"]));
        }
        Directory.Delete(folder, recursive: true);

        static JsonNode WithoutWires(JsonNode controller)
        {
            controller.AsObject().Remove("wires");
            return controller;
        }
    }
}
