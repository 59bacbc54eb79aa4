using System.Net;
using System.Net.Http.Headers;
using System.Text.Json.Nodes;
using LoftyWren.Core.Records;
using LoftyWren.Server.Commissioning;

namespace LoftyWren.Server.Tests;

/// <summary>One server for what is commissioned: each test works on points and panels of its own.</summary>
[CollectionDefinition("commissioning")]
public class CommissioningServer : ICollectionFixture<DemoServer>;

/// <summary>Point checks over HTTP: what is kept, what is driven and let go, and who may.</summary>
[Collection("commissioning")]
public class CheckTests(DemoServer demo)
{
    private static readonly byte[] Png = [0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A, 1, 2, 3];

    private static async Task<JsonNode> Line(Client client, string controller, string terminal) =>
        (await client.Read($"/api/checks/{controller}"))["lines"]!.AsArray().First(l => (string?)l!["terminal"] == terminal)!;

    private static CheckEntry Entry(JsonNode line, double? reference = null, bool? passed = null, bool correct = false, long? at = null, double? seen = null, double? allowed = null, string? id = null) =>
        new(id ?? RecordId.New("check").Value, new RecordId((string)line["pointId"]!), reference, allowed, passed, "by hand", correct, at, seen);

    [Fact]
    public async Task A_sensor_is_compared_kept_once_and_counted()
    {
        Client technician = await demo.As("technician");
        JsonNode line = await Line(technician, "kh-c1", "UI4");
        JsonNode reading = (await technician.Read("/api/controllers/kh-c1/terminals")).AsArray().First(t => (string?)t!["terminal"] == "UI4")!;
        // IEC 60751 near 18 °C: about 3.9 Ω a kelvin; the instrument shows what the resistance stands for.
        double celsius = ((double)reading["raw"]! - 1000) / 3.9;
        CheckEntry entry = Entry(line, celsius);
        JsonNode kept = JsonNode.Parse(await (await technician.Post("/api/checks", entry)).Content.ReadAsStringAsync())!;
        Assert.True((bool)kept["passed"]!, kept.ToJsonString());
        Assert.EndsWith("Ω", (string?)kept["raw"], StringComparison.Ordinal);
        // Sent twice, kept once.
        await technician.Post("/api/checks", entry);
        Assert.Single((await technician.Read($"/api/checks/of/{(string)line["pointId"]!}")).AsArray());
        JsonNode sheet = await technician.Read("/api/checks/kh-c1");
        Assert.True((int)sheet["progress"]!["passed"]! >= 1);
        // Ten kelvin off fails, and the newest counts.
        await technician.Post("/api/checks", Entry(line, celsius + 10));
        JsonNode again = await Line(technician, "kh-c1", "UI4");
        Assert.False((bool)again["last"]!["passed"]!);
        Assert.Contains("off the reference", (string?)again["last"]!["verdict"], StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_correction_is_set_where_it_is_wanted_and_is_an_edit_like_any()
    {
        Client technician = await demo.As("technician");
        JsonNode line = await Line(technician, "kh-c1", "UI5");
        HttpResponseMessage answer = await technician.Post("/api/checks", Entry(line, 25, correct: true));
        JsonNode kept = JsonNode.Parse(await answer.Content.ReadAsStringAsync())!;
        Assert.Equal(25, (double)kept["reading"]! + (double)kept["correction"]!, 0.01);
        JsonNode past = (await technician.Read("/api/history")).AsArray()[0]!;
        Assert.Contains("at its point check", (string?)past["label"], StringComparison.Ordinal);
        Assert.Equal("technician", (string?)past["author"]);
    }

    [Fact]
    public async Task An_output_is_driven_to_a_step_only_and_goes_back()
    {
        Client technician = await demo.As("technician");
        JsonNode line = await Line(technician, "kh-c1", "RO1");
        var point = new RecordId((string)line["pointId"]!);
        Assert.Equal(HttpStatusCode.NoContent, (await technician.Post("/api/checks/exercise", new ExerciseRequest(point, 1))).StatusCode);
        JsonNode held = (await technician.Read("/api/held")).AsArray().First(h => (string?)h!["pointId"] == point.Value)!;
        Assert.Equal("point check", (string?)held["why"]);
        // It ends by itself.
        Assert.NotNull(held["until"]);
        Assert.Equal(422, (int)(await technician.Post("/api/checks/exercise", new ExerciseRequest(point, 0.5))).StatusCode);
        await technician.Post("/api/checks/restore", new ExerciseRequest(point, 0));
        Assert.DoesNotContain((await technician.Read("/api/held")).AsArray(), h => (string?)h!["pointId"] == point.Value);
        Assert.Equal(422, (int)(await technician.Post("/api/checks", Entry(line))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await technician.Post("/api/checks", Entry(line, passed: true))).StatusCode);
        // What somebody else holds is theirs: neither driven nor let go.
        JsonNode hold = (await technician.Read("/api/held")).AsArray()[0]!;
        var theirs = new RecordId((string)hold["pointId"]!);
        string why = await Client.Detail(await technician.Post("/api/checks/exercise", new ExerciseRequest(theirs, 0)));
        Assert.Contains("Ask them, or release it first", why, StringComparison.Ordinal);
        await technician.Post("/api/checks/restore", new ExerciseRequest(theirs, 0));
        Assert.Contains((await technician.Read("/api/held")).AsArray(), h => (string?)h!["pointId"] == theirs.Value);
    }

    [Fact]
    public async Task What_was_entered_without_a_connection_comes_later_and_what_the_page_showed_is_a_remark()
    {
        Client technician = await demo.As("technician");
        JsonNode line = await Line(technician, "kh-c1", "UI8");
        long then = DateTimeOffset.UtcNow.AddMinutes(-30).ToUnixTimeMilliseconds();
        JsonNode kept = JsonNode.Parse(await (await technician.Post("/api/checks", Entry(line, 19.0, at: then, seen: 19.3))).Content.ReadAsStringAsync())!;
        // Only what the server has read itself is evidence: it has nothing from that moment, so nothing is proven.
        Assert.Equal((false, true, then), ((bool)kept["passed"]!, (bool)kept["wasLate"]!, (long)kept["atMilliseconds"]!));
        Assert.Null(kept["reading"]);
        Assert.Contains("The page showed 19.3 °C.", (string)kept["remark"]!, StringComparison.Ordinal);
        Assert.Contains("once more with a connection", (string)kept["verdict"]!, StringComparison.Ordinal);
        // A date of the distant past is refused, and the report is made as before.
        Assert.Contains("366 days", await Client.Detail(await technician.Post("/api/checks", Entry(line, 19.0, at: -99_999_999_999_999))), StringComparison.Ordinal);
        Assert.True((await technician.Get("/api/checks/report")).IsSuccessStatusCode);
        // A moment that has not come yet is now.
        JsonNode ahead = JsonNode.Parse(await (await technician.Post("/api/checks", Entry(line, 19.0, at: then + 86_400_000))).Content.ReadAsStringAsync())!;
        Assert.False((bool)ahead["wasLate"]!);
    }

    [Fact]
    public async Task A_photo_is_a_picture_of_a_believable_size_or_is_refused()
    {
        Client technician = await demo.As("technician");
        CheckEntry entry = Entry(await Line(technician, "kh-c1", "UI1"), 20);
        await technician.Post("/api/checks", entry);
        async Task<HttpResponseMessage> Photo(string id, byte[] bytes)
        {
            var body = new ByteArrayContent(bytes);
            body.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
            return await technician.Http.PostAsync($"/api/checks/{id}/photo", body);
        }
        Assert.Contains("no photo that browsers show", await Client.Detail(await Photo(entry.Id, "<svg onload='alert(1)'/>"u8.ToArray())), StringComparison.Ordinal);
        Assert.Contains("larger than 4 MB", await Client.Detail(await Photo(entry.Id, [.. Png, .. new byte[5 * 1024 * 1024]])), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await Photo("nowhere", Png)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await Photo(entry.Id, Png)).StatusCode);
        byte[] second = [.. Png, 1];
        Assert.Equal(HttpStatusCode.NoContent, (await Photo(entry.Id, second)).StatusCode);
        // Evidence is added to, not replaced.
        Assert.Equal(second, await (await technician.Get($"/api/checks/{entry.Id}/photo?n=1")).Content.ReadAsByteArrayAsync());
        HttpResponseMessage photo = await technician.Get($"/api/checks/{entry.Id}/photo");
        Assert.Equal("image/png", photo.Content.Headers.ContentType!.MediaType);
        Assert.Equal(Png, await photo.Content.ReadAsByteArrayAsync());
    }

    [Fact]
    public async Task Only_technicians_check_and_bad_entries_are_told()
    {
        Client viewer = await demo.As("viewer"), technician = await demo.As("technician");
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Get("/api/checks")).StatusCode);
        JsonNode line = await Line(technician, "kh-c1", "UI2");
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post("/api/checks", Entry(line, 20))).StatusCode);
        Assert.Equal("Enter what the reference instrument shows.", await Client.Detail(await technician.Post("/api/checks", Entry(line))));
        Assert.Contains("plain numbers", await Client.Detail(await technician.Post("/api/checks", Entry(line, 20, allowed: -1))), StringComparison.Ordinal);
        Assert.Contains("cannot be shown", await Client.Detail(await technician.Post("/api/checks", Entry(line, 20) with { Remark = "a\u0001b" })), StringComparison.Ordinal);
        Assert.Contains("has an id of small letters", await Client.Detail(await technician.Post("/api/checks", Entry(line, 20, id: "../x"))), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await technician.Get("/api/checks/nowhere")).StatusCode);
        string code = await (await technician.Get("/api/checks/kh-c1/code")).Content.ReadAsStringAsync();
        Assert.StartsWith("<svg", code, StringComparison.Ordinal);
        HttpResponseMessage report = await technician.Get("/api/checks/report");
        Assert.Equal("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", report.Content.Headers.ContentType!.MediaType);
    }
}

/// <summary>A controller's states over HTTP: ordered with a reason and a trail, told as far as heard, and kept over a restart of the server.</summary>
[Collection("commissioning")]
public class DeviceStateTests(DemoServer demo)
{
    private static async Task<JsonNode> Standing(Client client, string id) => (await client.Read("/api/devices")).AsArray().First(d => (string?)d!["standing"]!["id"] == id)!;

    private static Task<HttpResponseMessage> Order(Client client, string id, string order, string why = "test") => client.Post($"/api/devices/{id}/order", new { order, why });

    [Fact]
    public async Task A_silent_controller_is_told_its_values_are_stale_and_nothing_is_sent_to_it()
    {
        Client technician = await demo.As("technician");
        Assert.Equal("runs its program", (string?)(await Standing(technician, "bn-c1"))["says"]);
        Assert.Contains("Say why", await Client.Detail(await Order(technician, "bn-c1", "powerOff", " ")), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NoContent, (await Order(technician, "bn-c1", "powerOff", "fuse changed")).StatusCode);
        JsonNode standing = await Standing(technician, "bn-c1");
        Assert.Equal(("late", "nonOperational"), ((string?)standing["says"], (string?)standing["standing"]!["status"]));
        // What it noted after it was last heard is not known yet.
        Assert.DoesNotContain(standing["standing"]!["events"]!.AsArray(), e => (long)e!["atMilliseconds"]! > (long)standing["standing"]!["silentSince"]!);
        Assert.Contains("does not answer", await Client.Detail(await technician.Get("/api/commission/bn-c1/read-back")), StringComparison.Ordinal);
        Assert.Contains((await technician.Read("/api/trail")).AsArray(), t => (string?)t!["what"] == "Took the supply of BN-C1: fuse changed");
        Assert.Empty((await technician.Read("/api/controllers/bn-c1/terminals")).AsArray());
        // A page about it opens all the same.
        Assert.Equal(HttpStatusCode.OK, (await technician.Get("/api/commission/bn-c1")).StatusCode);
        Assert.Contains("has no supply", await Client.Detail(await Order(technician, "bn-c1", "stop")), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NoContent, (await Order(technician, "bn-c1", "powerOn")).StatusCode);
        var site = demo.Get<Installation.IVirtualSite>();
        site.RunAhead(site.Clock().Now + 60_000);
        standing = await Standing(technician, "bn-c1");
        Assert.Equal(("runs its program", "detectedPowerLost"), ((string?)standing["says"], (string?)standing["standing"]!["reason"]));
        Assert.Equal(["off", "loader", "runtime", "application", "running"], standing["standing"]!["events"]!.AsArray().Select(e => (string?)e!["phase"]).TakeLast(5));
    }

    // The clay mixing's setpoint has a fallback of 17 °C; at 18.5 °C it moves, and all logs and holds go on.
    [Fact]
    public async Task A_send_is_rehearsed_and_nothing_there_changes()
    {
        Client technician = await demo.As("technician"), engineer = await demo.As("engineer");
        Assert.Equal("[]", (await technician.Read("/api/commission/kh-c3/rehearsal"))["moves"]!.ToJsonString());
        Core.Points.Point setpoint = demo.Get<Projects.Workspace>().Project.Find<Core.Points.Point>(new("throw-sp"))!;
        await engineer.Change(Core.Projects.Edit.Of(setpoint with { Fallback = setpoint.Fallback + 1.5 }));
        string host = demo.Get<Projects.Workspace>().Project.All<Core.Hardware.Fitting>().First(f => f.PointId == setpoint.Id).ControllerId.Value;
        JsonNode rehearsal = await technician.Read($"/api/commission/{host}/rehearsal");
        JsonNode move = rehearsal["moves"]!.AsArray().First(m => (string?)m!["id"] == "throw-sp")!;
        Assert.NotEqual((string?)move["before"], (string?)move["after"]);
        Assert.Equal(((int)rehearsal["holds"]!, (int)rehearsal["logs"]!), ((int)rehearsal["holdsKept"]!, (int)rehearsal["logsKept"]!));
        // Rehearsed once more it says the same: the old program still runs.
        Assert.Equal((string?)move["before"], (string?)(await technician.Read($"/api/commission/{host}/rehearsal"))["moves"]!.AsArray().First(m => (string?)m!["id"] == "throw-sp")!["before"]);
        Assert.Equal(1, (int)(await technician.Read($"/api/commission/{host}"))["version"]!);
    }

    [Fact]
    public async Task Only_technicians_may_and_orders_are_of_those_there_are()
    {
        Client viewer = await demo.As("viewer"), technician = await demo.As("technician");
        Assert.Equal(HttpStatusCode.OK, (await viewer.Get("/api/devices")).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await Order(viewer, "kh-c4", "stop")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Order(technician, "kiln-temp", "stop")).StatusCode);
        Assert.Equal(400, (int)(await Order(technician, "kh-c4", "explode")).StatusCode);
    }
}
