using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests.Commissioning;

/// <summary>An older program runs, is converted, lived beside itself for a day, and only then sent.</summary>
[Trait("Takes", "long")]
public class ConversionTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static async Task<JsonNode> Done(DemoServer server, HttpResponseMessage started)
    {
        string text = await started.Content.ReadAsStringAsync();
        Assert.True(started.IsSuccessStatusCode, text);
        JobView done = await server.Get<JobRunner>().Finish((string)JsonNode.Parse(text)!["id"]!);
        Assert.Equal(JobState.Done, done.State);
        return JsonNode.Parse(text)!;
    }

    [Fact]
    public async Task From_an_older_program_to_one_that_is_sent()
    {
        Client engineer = await server.As("engineer"), technician = await server.As("technician"), viewer = await server.As("viewer");
        Project Now() => server.Get<Workspace>().Project;
        // The fan-coil of the loft study as version 1 had it: a loop by its band, which its template knows nothing of.
        Sequence today = Now().Find<Sequence>(new("loft-seq"))!;
        Block loop = today.Blocks.Single(b => b.Kind == BlockKind.Pid);
        Sequence older = today with { Blocks = [.. today.Blocks.Select(b => b != loop ? b : b with { Kind = BlockKind.PiBand, Numbers = new Dictionary<string, double> { ["band"] = 4, ["reset"] = 20 } })] };
        Assert.Equal(200, (await engineer.Change(Edit.Of(older, Now().FindEntry(older.Id)!.Revision))).Status);
        await Done(server, await technician.Post("/api/commission/bn-c1/send"));
        server.Get<Installation.SiteHost>().SetClock("engineer", null, null, 60);

        JsonNode plan = await viewer.Read("/api/conversion");
        // Two of the yard's are older as well.
        Assert.Equal(3, (int)plan["sequences"]!);
        Assert.Equal(["changed", "risky", "customised"], plan["lines"]!.AsArray().Where(l => (string)l!["sequenceId"]! == "loft-seq").Select(l => (string)l!["sort"]!).Distinct());
        Assert.Contains("departs from ‘Heating fan-coil’", (string)plan["lines"]!.AsArray().Last(l => (string)l!["sequenceId"]! == "loft-seq")!["what"]!);
        Assert.Empty(plan["waiting"]!.AsArray());
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post("/api/conversion", new { })).StatusCode);
        Assert.Contains("is no sequence of an older version", await Client.Detail(await engineer.Post("/api/conversion", new { ids = new[] { "kiln-seq" } })));

        (await engineer.Post("/api/conversion", new { ids = new[] { "loft-seq" } })).EnsureSuccessStatusCode();
        Assert.DoesNotContain(Now().Find<Sequence>(older.Id)!.Blocks, b => BlockType.Of(b.Kind).IsRetired);
        // What was is kept under a name.
        Assert.Contains((await engineer.Read("/api/snapshots")).AsArray(), s => (string)s!["name"]! == "Before: Converted 1 sequence of an older version");
        Assert.Contains("There is nothing that could be converted", await Client.Detail(await engineer.Post("/api/conversion", new { ids = Array.Empty<string>() })));
        JsonNode waiting = (await viewer.Read("/api/conversion"))["waiting"]!.AsArray().Single()!;
        Assert.Equal(("BN-C1", "Fan-coil 11"), ((string)waiting["name"]!, (string)waiting["sequences"]![0]!));
        Assert.Contains("Live a day of both first", await Client.Detail(await technician.Post("/api/commission/bn-c1/send")));

        await Done(server, await technician.Post("/api/commission/bn-c1/day"));
        Assert.Contains("Over a day", (string)(await technician.Read("/api/commission/bn-c1/day"))["sentence"]!);
        Assert.Null((await viewer.Read("/api/conversion"))["waiting"]!.AsArray().Single()!["mustBefore"]);
        await Done(server, await technician.Post("/api/commission/bn-c1/send"));
        Assert.Empty((await viewer.Read("/api/conversion"))["waiting"]!.AsArray());
    }

    /// <summary>Work that is resumed may find another design than it began with: it asks at the transfer itself.</summary>
    [Fact]
    public async Task Work_that_goes_on_with_a_converted_design_asks_for_the_day_too()
    {
        using var bench = new Workbench();
        var older = new Sequence { Id = new("old"), Name = "Older", EquipmentId = Core.Tests.KilnRoom.Fan, ControllerId = Workbench.Controller, Blocks = [new Block { Id = "b", Kind = BlockKind.TwoLimits, Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(Core.Tests.KilnRoom.Temperature) } }] };
        Assert.True(bench.Work.Apply([Edit.Of(older)], "engineer").Accepted);
        await bench.SetUp();
        string runs = bench.Device.Hash;
        Assert.True(bench.Work.Apply(Core.OlderPrograms.ProgramConversion.Of(bench.Project, _ => []).Edits(bench.Project), "engineer").Accepted);
        var refused = await Assert.ThrowsAsync<InvalidOperationException>(() => bench.Sending().Send(new Server.Commissioning.SendOrder(Workbench.Controller), "technician", Workbench.Job()));
        Assert.Contains("‘Older’ of KH-C1 was converted from an older version. Live a day of both first", refused.Message);
        Assert.Equal(runs, bench.Device.Hash);
        // The older design, put back, goes as it always did.
        Assert.True(bench.Work.Apply([Edit.Of(older)], "engineer").Accepted);
        bench.Edit(26);
        Assert.Equal("KH-C1 runs version 2.", await bench.Sending().Send(new Server.Commissioning.SendOrder(Workbench.Controller), "technician", Workbench.Job()));
    }
}
