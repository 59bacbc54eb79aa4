using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

public class ProjectEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    private Workspace Workspace => server.Get<Workspace>();

    private T Record<T>(string id) where T : ProjectRecord => Workspace.Project.Find<T>(new RecordId(id))!;

    private long Revision(string id) => Workspace.Project.FindEntry(new RecordId(id))!.Revision;

    [Fact]
    public async Task The_described_interface_is_the_one_the_client_is_built_from()
    {
        string served = await (await server.Anybody().Get("/openapi/v1.json")).Content.ReadAsStringAsync();
        string committed = await File.ReadAllTextAsync(Path.Combine(DemoServer.Root(), "client/openapi.json"));
        // The kind that only tests know is not part of the interface that ships.
        JsonNode interfaces = JsonNode.Parse(served)!;
        TakeOut(interfaces, "hatch");
        Assert.True(JsonNode.DeepEquals(JsonNode.Parse(committed), interfaces), "client/openapi.json is out of date: run client/describe.");
    }

    /// <summary>The client's module of kinds is made of what the registry says; a kind that only tests know is not in it.</summary>
    [Fact]
    public async Task The_registry_of_kinds_is_the_one_the_client_is_built_from()
    {
        JsonNode served = await server.Anybody().Read("/api/kinds"), committed = JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(DemoServer.Root(), "client/kinds.json")))!;
        JsonArray shipped = [.. served.AsArray().Where(k => k!["key"]!.GetValue<string>() != "hatch").Select(k => k!.DeepClone())];
        Assert.True(JsonNode.DeepEquals(committed, shipped), "client/kinds.json is out of date: run client/describe.");
        string module = await File.ReadAllTextAsync(Path.Combine(DemoServer.Root(), "client/src/shared/api/kinds.ts"));
        Assert.All(shipped, k => Assert.Contains($"'{k!["key"]}'", module, StringComparison.Ordinal));
    }

    private static void TakeOut(JsonNode? node, string word)
    {
        bool Is(string text) => text.Contains(word, StringComparison.OrdinalIgnoreCase);
        if (node is JsonObject table)
        {
            foreach (string key in table.Select(t => t.Key).Where(Is).ToList()) table.Remove(key);
            foreach (var (_, value) in table) TakeOut(value, word);
        }
        else if (node is JsonArray list)
        {
            for (int i = list.Count - 1; i >= 0; i--)
            {
                if (list[i] is JsonObject one && Is($"{one["$ref"]} {one["properties"]?["type"]?.ToJsonString()}")) list.RemoveAt(i);
                else TakeOut(list[i], word);
            }
        }
    }

    [Fact]
    public async Task An_edit_is_accepted_labelled_and_kept()
    {
        Client engineer = await server.As("engineer");
        var (status, body) = await engineer.Change(Edit.Of(Record<Place>("kh-g-office") with { Name = "Kiln office" }, Revision("kh-g-office")));
        Assert.Equal(200, status);
        Assert.Equal("Renamed room ‘Office’ to ‘Kiln office’", body["label"]!.GetValue<string>());
        JsonNode history = await engineer.Read("/api/history");
        Assert.Equal(("engineer", "Renamed room ‘Office’ to ‘Kiln office’"), (history[0]!["author"]!.GetValue<string>(), history[0]!["label"]!.GetValue<string>()));
        Assert.Equal("Kiln office", (await engineer.Read("/api/records/kh-g-office"))["record"]!["name"]!.GetValue<string>());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal("Office", Record<Place>("kh-g-office").Name);
        (await engineer.Post("/api/redo")).EnsureSuccessStatusCode();
        Assert.Equal("Kiln office", Record<Place>("kh-g-office").Name);
    }

    [Fact]
    public async Task Two_people_undo_only_their_own()
    {
        Client one = await server.As("engineer"), other = await server.As("administrator");
        await one.Change(Edit.Of(Record<Place>("bn-1-library-corner") with { Name = "Library nook" }));
        await other.Change(Edit.Of(Record<Place>("bn-1-loft-store") with { Name = "Loft cupboard" }));
        (await one.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal(("Library corner", "Loft cupboard"), (Record<Place>("bn-1-library-corner").Name, Record<Place>("bn-1-loft-store").Name));
    }

    [Fact]
    public async Task A_conflict_tells_both_versions()
    {
        Client one = await server.As("engineer"), other = await server.As("administrator");
        Place room = Record<Place>("kh-g-washroom");
        long seen = Revision("kh-g-washroom");
        await one.Change(Edit.Of(room with { Name = "Wash room" }, seen));
        var (status, body) = await other.Change(Edit.Of(room with { Name = "Cloakroom" }, seen));
        Assert.Equal(409, status);
        JsonNode conflict = body["conflicts"]![0]!;
        Assert.Equal(("Wash room", "Cloakroom"), (conflict["theirs"]!["name"]!.GetValue<string>(), conflict["yours"]!["name"]!.GetValue<string>()));
        Assert.Equal("Wash room", Record<Place>("kh-g-washroom").Name);
    }

    [Fact]
    public async Task Any_entry_of_the_history_can_be_taken_back_unless_something_rests_on_it()
    {
        Client engineer = await server.As("engineer");
        Place room = Record<Place>("kh-b-archive");
        JsonNode first = (await engineer.Change(Edit.Of(room with { Name = "Archive room" }))).Body;
        await engineer.Change(Edit.Of(Record<Place>("kh-b-archive") with { AreaSquareMetres = 58 }));
        HttpResponseMessage refused = await engineer.Post($"/api/history/{first["revision"]}/undo");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        Assert.Contains("was changed again since", await Client.Detail(refused));
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        (await engineer.Post($"/api/history/{first["revision"]}/undo")).EnsureSuccessStatusCode();
        Assert.Equal("Archive", Record<Place>("kh-b-archive").Name);
    }

    [Theory]
    [InlineData("""{"edits":[{"put":{"type":"place"}}]}""", "required")]
    [InlineData("""{"edits":[{"put":{"type":"zeppelin","id":"x","name":"x"}}]}""", "zeppelin")]
    [InlineData("""{"edits":[{"put":{"type":"place","id":"../../etc","name":"x","kind":"room"}}]}""", "is not a record id")]
    [InlineData("""{"edits":[{"put":{"type":"place","id":"x","name":"x","kind":17}}]}""", "kind")]
    [InlineData("""{"edits":""", "could not be read")]
    public async Task Hostile_bodies_get_an_answer_in_words_and_change_nothing(string body, string says)
    {
        Client engineer = await server.As("engineer");
        long before = Workspace.Project.Revision;
        HttpResponseMessage response = await engineer.Http.PostAsync("/api/changes", new StringContent(body, Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        Assert.Contains(says, await Client.Detail(response));
        Assert.Equal(before, Workspace.Project.Revision);
    }

    [Fact]
    public async Task A_body_over_the_limit_is_refused()
    {
        Client engineer = await server.As("engineer");
        HttpStatusCode status;
        try
        {
            status = (await engineer.Http.PostAsync("/api/changes", new StringContent("{\"label\":\"" + new string('x', 11 * 1024 * 1024), Encoding.UTF8, "application/json"))).StatusCode;
        }
        catch (HttpRequestException)
        {
            // The server may close the connection before all of it has been sent.
            status = HttpStatusCode.RequestEntityTooLarge;
        }
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, status);
    }

    [Fact]
    public async Task A_removal_is_shown_before_it_is_done()
    {
        Client engineer = await server.As("engineer");
        JsonNode preview = JsonNode.Parse(await (await engineer.Post("/api/removal", new { ids = new[] { "kiln-limit" } })).Content.ReadAsStringAsync())!;
        Assert.Contains("kiln-seq", preview["changed"]!.AsArray().Select(c => c!["id"]!.GetValue<string>()));
        Assert.Contains("kiln-limit", preview["gone"]!.AsArray().Select(c => c!["id"]!.GetValue<string>()));
        Assert.NotNull(Record<Point>("kiln-limit"));
        (await engineer.Post("/api/removal/apply", new { ids = new[] { "kiln-limit" } })).EnsureSuccessStatusCode();
        Assert.Null(Record<Point>("kiln-limit"));
        JsonNode findings = await engineer.Read("/api/findings?show=high&words=not+connected");
        // What is asked for is narrowed, what is counted is all there is; and it stands since the removal.
        Assert.Equal(server.Get<Workspace>().Findings.Count, findings["all"]!.GetValue<int>());
        Assert.Equal(findings["matching"]!.GetValue<int>(), findings["findings"]!.AsArray().Count);
        Assert.All(findings["findings"]!.AsArray(), f => Assert.Equal("high", f!["severity"]!.GetValue<string>()));
        Assert.StartsWith("Removed", findings["findings"]!.AsArray().First(f => f!["code"]!.GetValue<string>() == "open-input")!["sinceLabel"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("open-input", findings["findings"]!.AsArray().Select(f => f!["code"]!.GetValue<string>()));
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.NotNull(Record<Point>("kiln-limit"));
    }

    [Fact]
    public async Task The_demo_is_as_it_says_it_is()
    {
        Client viewer = await server.As("viewer");
        JsonNode section = await viewer.Read("/api/buildings/kh/section");
        Assert.Equal(["Roof", "First floor", "Ground floor", "Basement"], section["floors"]!.AsArray().Select(f => f!["floor"]!["name"]!.GetValue<string>()));
        Assert.Equal(["Packing room cold", "Shop too warm"], (await viewer.Read("/api/alarms")).AsArray().Select(a => a!["name"]!.GetValue<string>()).Where(n => n is "Packing room cold" or "Shop too warm").Order().Distinct());
        Assert.Contains((await viewer.Read("/api/held")).AsArray(), h => h!["pointId"]!.GetValue<string>() == "stb-valve");
        Assert.Contains((await viewer.Read("/api/commission")).AsArray(), a => a!["name"]!.GetValue<string>() == "KH-C4" && a["changes"]!.GetValue<int>() == 1);
        Assert.Contains("open circuit", (await viewer.Read("/api/why/pack-temp"))["fact"]!.GetValue<string>());
    }
}
