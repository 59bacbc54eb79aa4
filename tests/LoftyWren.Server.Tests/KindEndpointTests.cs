using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tests.Records;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>Kinds and fields as screens are told of them: a kind that only tests know is served like all others.</summary>
public class KindEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    private Project Project => server.Get<Workspace>().Project;

    private static async Task<JsonNode> Post(Client client, string path, object body)
    {
        HttpResponseMessage response = await client.Post(path, body);
        string text = await response.Content.ReadAsStringAsync();
        Assert.True(response.IsSuccessStatusCode, $"{path}: {(int)response.StatusCode} {text}");
        return JsonNode.Parse(text)!;
    }

    private static IEnumerable<string> Texts(JsonNode list, string name) => list.AsArray().Select(n => n![name]!.GetValue<string>());

    [Fact]
    public async Task Screens_are_told_of_every_kind_what_the_registry_says()
    {
        JsonNode kinds = await (await server.As("viewer")).Read("/api/kinds");
        Assert.Equal(RecordKinds.All.Select(k => k.Key), Texts(kinds, "key"));
        JsonNode hatch = kinds.AsArray().Single(k => k!["key"]!.GetValue<string>() == "hatch")!;
        Assert.Equal(("hatches", true, true), (hatch["nouns"]![0]!["plural"]!.GetValue<string>(), hatch["isTagged"]!.GetValue<bool>(), hatch["canBegin"]!.GetValue<bool>()));
        Assert.Equal(["Name", "Address", "Width", "Glazing", "Note", "Opens for"], Texts(hatch["columns"]!, "label"));
        Assert.Equal(["name", "note"], Texts(hatch["replace"]!, "key"));
        Assert.Contains("glazing", Texts(hatch["groups"]!, "key"));
        Assert.Equal("m", hatch["columns"]![2]!["unit"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_kind_is_added_shown_edited_and_looked_back_at_by_its_fields_alone()
    {
        Client engineer = await server.As("engineer");
        object cell(string field, string text, long? from = 0) => new { id = "hatch-1", field, text, from, kind = "hatch", ownerId = "kh-1-kiln-room" };
        object[] cells = [cell("name", "Roof hatch"), cell("widthMetres", "1,2 m"), cell("opens", "Room temperature")];
        JsonNode preview = await Post(engineer, "/api/cells/preview", new { cells });
        Assert.Equal(1, preview["records"]!.GetValue<int>());
        Assert.Equal("Added hatch ‘Roof hatch’ to ‘Kiln room’", (await Post(engineer, "/api/cells", new { cells }))["label"]!.GetValue<string>());
        Hatch made = Project.Find<Hatch>(new("hatch-1"))!;
        Assert.Equal((1.2, 1), (made.WidthMetres, made.Address));
        JsonNode row = (await engineer.Read("/api/grid/hatch?scope=site&words=roof"))["rows"]![0]!;
        Assert.Equal(["Roof hatch", "1", "1.2", "glass", "", "Room temperature"], row["cells"]!.AsArray().Select(c => c!.GetValue<string>()));
        JsonNode dossier = await engineer.Read("/api/records/hatch-1");
        Assert.Equal(["Address: 1", "Width: 1.2", "Glazing: glass", "Note: ", "Opens for: Room temperature"], dossier["fields"]!.AsArray().Select(f => $"{f!["label"]}: {f["text"]}"));
        long seen = dossier["revision"]!.GetValue<long>();
        await Post(engineer, "/api/cells", new { cells = new[] { new { id = "hatch-1", field = "note", text = "sticks", from = seen } } });
        // Another field of the same record goes beside it, the same field is a conflict.
        await Post(engineer, "/api/cells", new { cells = new[] { new { id = "hatch-1", field = "glazing", text = "Steel", from = seen } } });
        Assert.Equal(HttpStatusCode.Conflict, (await engineer.Post("/api/cells", new { cells = new[] { new { id = "hatch-1", field = "note", text = "is new", from = seen } } })).StatusCode);
        JsonNode past = await engineer.Read("/api/records/hatch-1/past");
        Assert.Equal(["Changed hatch ‘Roof hatch’", "Changed hatch ‘Roof hatch’", "Added hatch ‘Roof hatch’ to ‘Kiln room’"], Texts(past, "label"));
        Assert.Equal("glazing: glass → steel", $"{past[0]!["fields"]![0]!["words"]}: {past[0]!["fields"]![0]!["before"]} → {past[0]!["fields"]![0]!["after"]}");
        Assert.Equal(2, (await engineer.Read("/api/kinds/hatch/free"))["address"]!.GetValue<int>());
        await Post(engineer, "/api/grid/hatch/replace", new { scope = "site", column = "note", find = "sticks", replace = "stuck" });
        Assert.Equal("stuck", Project.Find<Hatch>(new("hatch-1"))!.Note);
        Assert.Equal("hatch", (await engineer.Read("/api/find?q=roof%20hatch&nouns=hatch"))[0]!["noun"]!.GetValue<string>());
        for (int i = 0; i < 4; i++) (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Null(Project.Find(new("hatch-1")));
    }

    [Theory]
    [InlineData("{\"cells\":[{\"id\":\"kiln-temp\",\"field\":\"low\",\"text\":\"cold\"}]}", "‘cold’ is not a number. Write digits, such as 21.5.")]
    [InlineData("{\"cells\":[{\"id\":\"kiln-temp\",\"field\":\"low\",\"text\":\"1,000\"}]}", "‘1,000’ can be read in two ways. Write 1000 or 1.000.")]
    [InlineData("{\"cells\":[{\"id\":\"kiln-temp\",\"field\":\"unitOrStates\",\"text\":\"furlong\"}]}", "‘furlong’ is not a known unit.")]
    [InlineData("{\"cells\":[{\"id\":\"kiln-temp\",\"field\":\"networkName\",\"text\":\"X\"}]}", "Network names follow from the naming convention.")]
    [InlineData("{\"cells\":[{\"id\":\"kiln-temp\",\"field\":\"teapot\",\"text\":\"X\"}]}", "A point has no field ‘teapot’.")]
    [InlineData("{\"cells\":[{\"id\":\"no-such\",\"field\":\"name\",\"text\":\"X\"}]}", "This record is no longer in the project.")]
    [InlineData("{\"cells\":[{\"id\":\"new-1\",\"field\":\"name\",\"text\":\"X\",\"kind\":\"alarm\",\"ownerId\":\"kiln-temp\"}]}", "Such a record (alarm) cannot be added here by its name alone.")]
    [InlineData("{\"cells\":[{\"id\":\"new-1\",\"field\":\"name\",\"text\":\"X\",\"kind\":\"teapot\",\"ownerId\":\"site\"}]}", "There is no kind of record called ‘teapot’.")]
    public async Task What_a_cell_cannot_take_is_refused_in_words_and_nothing_is_changed(string body, string sentence)
    {
        Client engineer = await server.As("engineer");
        long before = Project.Revision;
        using var content = new StringContent(body, System.Text.Encoding.UTF8, "application/json");
        HttpResponseMessage response = await engineer.Http.PostAsync("/api/cells", content);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, response.StatusCode);
        Assert.Contains(sentence, await Client.Detail(response), StringComparison.Ordinal);
        Assert.Equal(before, Project.Revision);
    }
}
