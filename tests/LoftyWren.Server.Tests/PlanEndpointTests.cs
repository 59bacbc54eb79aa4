using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>Lists, libraries and tags over HTTP.</summary>
public class PlanEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    private Project Project => server.Get<Workspace>().Project;

    private static async Task<(HttpStatusCode Status, JsonNode Body)> Send(Client client, string path, byte[] body)
    {
        HttpResponseMessage answer = await client.Http.PostAsync(path, new ByteArrayContent(body));
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync())!);
    }

    private static async Task<JsonNode> Post(Client client, string path, object body)
    {
        HttpResponseMessage answer = await client.Post(path, body);
        string text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, text);
        return JsonNode.Parse(text)!;
    }

    [Fact]
    public async Task A_list_is_read_looked_at_and_taken_once()
    {
        Client engineer = await server.As("engineer");
        var (status, list) = await Send(engineer, "/api/lists", Encoding.UTF8.GetBytes("Building,Floor,Room,Point,Type,Unit\nBarn,Loft,Loft store,Loft humidity,AI,%RH\n"));
        Assert.Equal(HttpStatusCode.OK, status);
        var request = new JsonObject { ["token"] = list["token"]!.DeepClone(), ["sheet"] = 0, ["mapping"] = list["sheets"]![0]!["proposed"]!.DeepClone() };
        JsonNode preview = await Post(engineer, "/api/lists/preview", request);
        Assert.Equal(["adds 1 point"], preview["records"]!.AsArray().Select(r => r!.GetValue<string>()));
        request["seenRevision"] = preview["revision"]!.GetValue<long>() - 1;
        Assert.Contains("has changed since this preview", await Client.Detail(await engineer.Post("/api/lists/apply", request)), StringComparison.Ordinal);
        request["seenRevision"] = preview["revision"]!.DeepClone();
        Assert.Equal("Imported ‘list’: adds 1 point", (await Post(engineer, "/api/lists/apply", request))["label"]!.GetValue<string>());
        request.Remove("seenRevision");
        Assert.Contains("not so already", await Client.Detail(await engineer.Post("/api/lists/apply", request)), StringComparison.Ordinal);
        // Somebody else's list is nobody's business.
        Assert.Contains("no longer here", await Client.Detail(await (await server.As("administrator")).Post("/api/lists/preview", request)), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_file_that_cannot_be_read_is_refused_in_words()
    {
        Client engineer = await server.As("engineer");
        var (status, body) = await Send(engineer, "/api/lists", Encoding.UTF8.GetBytes("a,b\n\"open,1\n"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("never closed", body["detail"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_exported_list_read_back_changes_nothing()
    {
        Client engineer = await server.As("engineer");
        foreach (string form in (string[])["csv", "xlsx"])
        {
            byte[] file = await (await engineer.Get($"/api/lists/export?scope=site&form={form}")).Content.ReadAsByteArrayAsync();
            JsonNode list = (await Send(engineer, "/api/lists", file)).Body;
            JsonNode mapping = list["sheets"]![0]!["proposed"]!.DeepClone();
            mapping["blankIsAbove"] = false;
            JsonNode preview = await Post(engineer, "/api/lists/preview", new { token = list["token"]!.GetValue<string>(), sheet = 0, mapping });
            Assert.Equal((0, 0, 0), (preview["adds"]!.GetValue<int>(), preview["changes"]!.GetValue<int>(), preview["bad"]!.GetValue<int>()));
            Assert.True(preview["same"]!.GetValue<int>() > 90, preview.ToJsonString());
        }
    }

    [Fact]
    public async Task A_filter_answers_matches_near_misses_and_the_place_of_an_error()
    {
        Client viewer = await server.As("viewer");
        JsonNode answer = await viewer.Read("/api/tags/filter?q=" + Uri.EscapeDataString("fan and exhaust and equip") + "&scope=kh-1");
        Assert.Equal(["Extract", "Extract"], answer["hits"]!.AsArray().Select(h => h!["name"]!.GetValue<string>()));
        JsonNode wrong = await viewer.Read("/api/tags/filter?q=" + Uri.EscapeDataString("point and ("));
        Assert.Equal(11, wrong["errorAt"]!.GetValue<int>());
        JsonNode tags = await viewer.Read("/api/tags/of/kiln-temp");
        Assert.Contains(tags.AsArray(), t => t!["name"]!.GetValue<string>() == "spaceRef" && t["why"]!.GetValue<string>() == "where it is");
        JsonNode trial = JsonNode.Parse(await (await viewer.Post("/api/tags/rules/try", new { condition = "equipmentKind is \"kiln\" and record is \"point\"" })).Content.ReadAsStringAsync())!;
        Assert.Equal(2, trial["count"]!.GetValue<int>());
    }

    [Fact]
    public async Task A_template_is_placed_compared_updated_and_detached()
    {
        Client engineer = await server.As("engineer");
        JsonNode library = await Post(engineer, "/api/libraries", new { name = "Workshop", shared = true });
        string shelf = library["id"]!.GetValue<string>();
        Assert.Contains("already a library called", await Client.Detail(await engineer.Post("/api/libraries", new { name = "workshop", shared = true })), StringComparison.Ordinal);
        Assert.Contains("is for reading", await Client.Detail(await engineer.Post("/api/templates/capture", new { recordId = "work-dust", libraryId = "starter", name = "x" })), StringComparison.Ordinal);

        JsonNode captured = await Post(engineer, "/api/templates/capture", new { recordId = "work-dust", libraryId = shelf, name = "Dust", folder = "Workshop" });
        string id = captured["templateId"]!.GetValue<string>();
        var place = new { libraryId = shelf, templateId = id, placing = new { places = new[] { "kh-g-stock-room" }, each = 2, namePattern = "Dust {n}" } };
        JsonNode preview = await Post(engineer, "/api/templates/place/preview", place);
        Assert.Equal(["Dust 1", "Dust 2"], preview["rows"]!.AsArray().Select(r => r!["name"]!.GetValue<string>()));
        Assert.Equal("Placed 2 × ‘Dust’", (await Post(engineer, "/api/templates/place", place))["label"]!.GetValue<string>());
        Equipment placed = Project.All<Equipment>().Single(e => e.Name == "Dust 2");
        Assert.Empty((await engineer.Read($"/api/placements/{placed.Id}"))["differences"]!.AsArray());

        // A point is renamed here, and the template gets a comment on the same point in its next revision.
        Point point = Project.Referrers<Point>(placed.Id).OrderBy(p => p.Id).First();
        await engineer.Change(Edit.Of(point with { Low = null, Name = "Renamed here" }));
        JsonNode template = (await engineer.Read($"/api/libraries/{shelf}/templates/{id}"))["template"]!;
        string local = "t-" + point.Id.Value[(placed.Id.Value.Length + 1)..];
        template["records"]!.AsArray().Single(r => r!["id"]!.GetValue<string>() == local)!["description"] = "listen for rattling";
        Assert.Equal(2, (await Post(engineer, $"/api/libraries/{shelf}/templates", new { template, from = 1 }))["revision"]!.GetValue<int>());
        Assert.Contains("newer revision", await Client.Detail(await engineer.Post($"/api/libraries/{shelf}/templates", new { template, from = 1 })), StringComparison.Ordinal);
        JsonNode view = await engineer.Read($"/api/placements/{placed.Id}");
        Assert.Equal([("description", false), ("name", true)], view["differences"]!.AsArray().Select(d => (d!["field"]!.GetValue<string>(), d["isLocal"]!.GetValue<bool>())).Order());
        await Post(engineer, $"/api/placements/{placed.Id}/update", new { giveUp = Array.Empty<string>() });
        Assert.Equal(("Renamed here", "listen for rattling"), (Project.Find<Point>(point.Id)!.Name, Project.Find<Point>(point.Id)!.Description));
        await Post(engineer, $"/api/placements/{placed.Id}/detach", new { });
        Assert.Contains("was detached", await Client.Detail(await engineer.Get($"/api/placements/{placed.Id}")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_library_file_comes_in_without_overwriting_and_a_changed_one_is_refused()
    {
        Client engineer = await server.As("engineer");
        string shelf = (await Post(engineer, "/api/libraries", new { name = "From elsewhere", shared = false }))["id"]!.GetValue<string>();
        Assert.DoesNotContain((await (await server.As("administrator")).Read("/api/libraries")).AsArray(), l => l!["id"]!.GetValue<string>() == shelf);
        byte[] file = await (await engineer.Get("/api/libraries/starter/file")).Content.ReadAsByteArrayAsync();
        Assert.Equal(14, (await Send(engineer, $"/api/libraries/{shelf}/file", file)).Body["new"]!.AsArray().Count);
        Assert.Empty((await engineer.Read("/api/libraries")).AsArray().Single(l => l!["id"]!.GetValue<string>() == shelf)!["templates"]!.AsArray());
        await Send(engineer, $"/api/libraries/{shelf}/file?take=true", file);
        JsonNode again = (await Send(engineer, $"/api/libraries/{shelf}/file", file)).Body;
        Assert.Equal((0, 14, 0), (again["new"]!.AsArray().Count, again["same"]!.AsArray().Count, again["clashes"]!.AsArray().Count));
        // One byte inside: the hash tells.
        for (int at = 100; at < file.Length; at += file.Length / 7)
        {
            byte[] changed = [.. file];
            changed[at] ^= 0x55;
            var (status, body) = await Send(engineer, $"/api/libraries/{shelf}/file", changed);
            Assert.True(status is HttpStatusCode.UnprocessableEntity || body["same"]!.AsArray().Count == 14, body.ToJsonString());
        }
        Assert.Contains("no library file", (await Send(engineer, $"/api/libraries/{shelf}/file", [1, 2, 3])).Body["detail"]!.GetValue<string>(), StringComparison.Ordinal);
    }
}
