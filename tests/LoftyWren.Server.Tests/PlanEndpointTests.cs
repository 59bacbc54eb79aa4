using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using LoftyWren.Core.Places;
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
    public async Task A_grid_is_filtered_sorted_and_paged()
    {
        Client viewer = await server.As("viewer");
        JsonNode warm = await viewer.Read("/api/grid/point?scope=site&words=" + Uri.EscapeDataString("temperature kiln house basement") + "&sort=-name");
        string[] names = [.. warm["rows"]!.AsArray().Select(r => r!["name"]!.GetValue<string>())];
        Assert.Equal(names.OrderDescending(StringComparer.OrdinalIgnoreCase), names);
        Assert.Equal(names.Length, warm["total"]!.GetValue<int>());
        Assert.All(warm["rows"]!.AsArray(), r => Assert.StartsWith("Kiln House › Basement", r!["path"]!.GetValue<string>(), StringComparison.Ordinal));
        JsonNode tagged = await viewer.Read("/api/grid/point?scope=site&filter=" + Uri.EscapeDataString("cmd and equipRef->fcu") + "&count=3&offset=2");
        Assert.Equal((2, 3), (tagged["offset"]!.GetValue<int>(), tagged["rows"]!.AsArray().Count));
        Assert.All(tagged["rows"]!.AsArray(), r => Assert.Equal("command", r!["cells"]![2]!.GetValue<string>()));
        Assert.Equal("Character 5: Expected ‘and’, ‘or’ or the end before ‘sensor’.", (await viewer.Read("/api/grid/point?scope=site&filter=cmd%20sensor"))["filterError"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_text_is_replaced_in_all_points_of_a_grid_after_it_was_shown()
    {
        Client engineer = await server.As("engineer");
        var request = new { scope = "bn", words = "clay", column = "name", find = "room ", replace = "Air " };
        JsonNode preview = await Post(engineer, "/api/grid/point/replace/preview", request);
        Assert.Equal("Room temperature", preview["cells"]![0]!["before"]!.GetValue<string>());
        Assert.Equal("Air temperature", preview["cells"]![0]!["after"]!.GetValue<string>());
        int count = preview["count"]!.GetValue<int>();
        Assert.Equal($"Replaced ‘room ’ by ‘Air ’ in {count} points", (await Post(engineer, "/api/grid/point/replace", request))["label"]!.GetValue<string>());
        Assert.Equal(count, Project.All<Point>().Count(p => p.Name == "Air temperature"));
        Assert.Contains("nowhere", await Client.Detail(await engineer.Post("/api/grid/point/replace", request)), StringComparison.Ordinal);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.DoesNotContain(Project.All<Point>(), p => p.Name == "Air temperature");
    }

    [Fact]
    public async Task A_snapshot_is_compared_and_restored_and_the_project_file_reads_back()
    {
        Client engineer = await server.As("engineer");
        (await engineer.Post("/api/snapshots", new { name = "Before the painters" })).EnsureSuccessStatusCode();
        byte[] file = await (await engineer.Get("/api/project/file")).Content.ReadAsByteArrayAsync();
        long revision = (await engineer.Read("/api/snapshots")).AsArray().First(s => s!["name"]!.GetValue<string>() == "Before the painters")!["revision"]!.GetValue<long>();
        await engineer.Change(Edit.Of(Project.Find<Place>(new("kh-g-office"))! with { Name = "Painted office" }));
        JsonNode differences = await engineer.Read($"/api/differences?from={revision}");
        JsonNode only = Assert.Single(differences["records"]!.AsArray())!;
        Assert.Equal(("Office", "Painted office"), (only["fields"]![0]!["before"]!.GetValue<string>(), only["fields"]![0]!["after"]!.GetValue<string>()));
        Assert.Contains("changed,room,Painted office,Kiln House › Ground floor,name,Office,Painted office", await (await engineer.Get($"/api/differences/list?from={revision}")).Content.ReadAsStringAsync(), StringComparison.Ordinal);
        JsonNode view = (await Send(engineer, "/api/project/file", file)).Body;
        Assert.Equal((0, 1, 0), (view["added"]!.GetValue<int>(), view["changed"]!.GetValue<int>(), view["removed"]!.GetValue<int>()));
        Assert.Equal($"Restored revision {revision}", (await Post(engineer, $"/api/restore/{revision}", new { }))["label"]!.GetValue<string>());
        Assert.Equal("Office", Project.Find<Place>(new("kh-g-office"))!.Name);
        Assert.Empty((await engineer.Read($"/api/differences?from={revision}"))["records"]!.AsArray());
    }

    [Fact]
    public async Task A_large_edit_names_the_state_before_it_and_a_refused_one_does_not()
    {
        Client engineer = await server.As("engineer");
        Edit[] rooms = [.. Enumerable.Range(0, 60).Select(i => Edit.Of(new Place { Id = new($"cell-{i}"), Name = $"Cell {i}", Kind = PlaceKind.Room, In = new("bn-1") }))];
        static int Before(JsonNode all) => all.AsArray().Count(s => s!["name"]!.GetValue<string>().StartsWith("Before: ", StringComparison.Ordinal));
        int already = Before(await engineer.Read("/api/snapshots"));
        Assert.Equal(422, (await engineer.Change([.. rooms, Edit.Of(new Place { Id = new("cell-x"), Name = "", Kind = PlaceKind.Room, In = new("bn-1") })])).Status);
        Assert.Equal(already, Before(await engineer.Read("/api/snapshots")));
        long revision = Project.Revision;
        Assert.Equal(200, (await engineer.Change(rooms)).Status);
        JsonNode snapshot = (await engineer.Read("/api/snapshots"))[0]!;
        Assert.Equal(("Before: Added 60 rooms to ‘Loft’", revision, true), (snapshot["name"]!.GetValue<string>(), snapshot["revision"]!.GetValue<long>(), snapshot["automatic"]!.GetValue<bool>()));
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_template_of_a_room_goes_onto_a_floor_and_not_into_a_list_as_equipment()
    {
        Client engineer = await server.As("engineer");
        string shelf = (await Post(engineer, "/api/libraries", new { name = "Rooms", shared = true }))["id"]!.GetValue<string>();
        string id = (await Post(engineer, "/api/templates/capture", new { recordId = "kh-g-office", libraryId = shelf, name = "Office room" }))["templateId"]!.GetValue<string>();
        JsonNode placed = await Post(engineer, "/api/templates/place", new { libraryId = shelf, templateId = id, placing = new { places = new[] { "kh-1", "bn-g" }, each = 1, namePattern = "Office {n}" } });
        Assert.Equal("Placed 2 × ‘Office room’", placed["label"]!.GetValue<string>());
        Place second = Project.All<Place>().Single(p => p.Name == "Office 2");
        Assert.Equal("Barn › Ground floor", Project.PathOf(second.Id));
        Assert.Equal(Project.Referrers<Equipment>(new("kh-g-office")).Count(), Project.Referrers<Equipment>(second.Id).Count());
        JsonNode list = (await Send(engineer, "/api/lists", Encoding.UTF8.GetBytes("Building,Floor,Room,Equipment,Template\nBarn,Loft,Loft study,Thing,Office room\n"))).Body;
        JsonNode preview = await Post(engineer, "/api/lists/preview", new { token = list["token"]!.GetValue<string>(), sheet = 0, mapping = list["sheets"]![0]!["proposed"]!.DeepClone() });
        Assert.Contains("is a template of a room, not of equipment", preview["badCells"]![0]!["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_finding_is_silenced_with_a_reason_and_speaks_again()
    {
        Client engineer = await server.As("engineer");
        JsonNode finding = (await engineer.Read("/api/findings"))["findings"]!.AsArray()[0]!;
        var request = new { key = finding["key"]!.GetValue<string>(), recordId = finding["recordId"]!.GetValue<string>(), reason = " " };
        Assert.Contains("Say in up to 400", await Client.Detail(await engineer.Post("/api/findings/silence", request)), StringComparison.Ordinal);
        await Post(engineer, "/api/findings/silence", request with { reason = "comes with the bus" });
        JsonNode silenced = Assert.Single((await engineer.Read("/api/findings?show=silenced"))["findings"]!.AsArray())!;
        Assert.Equal(("comes with the bus", "engineer"), (silenced["silenced"]!.GetValue<string>(), silenced["silencedBy"]!.GetValue<string>()));
        Assert.DoesNotContain((await engineer.Read("/api/findings"))["findings"]!.AsArray(), f => f!["key"]!.GetValue<string>() == request.key);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Contains((await engineer.Read("/api/findings"))["findings"]!.AsArray(), f => f!["key"]!.GetValue<string>() == request.key);
    }

    [Fact]
    public async Task The_io_summary_counts_every_point_once_whatever_it_is_by()
    {
        Client viewer = await server.As("viewer");
        int points = Project.All<Point>().Count();
        foreach (string by in (string[])["panel", "floor", "room", "equipmentKind"])
        {
            JsonNode total = (await viewer.Read($"/api/lists/summary?by={by}&spare=20"))["total"]!["counts"]!;
            Assert.Equal(points, total["terminals"]!.GetValue<int>() + total["values"]!.GetValue<int>());
        }
        string csv = await (await viewer.Get("/api/lists/summary/file?by=panel")).Content.ReadAsStringAsync();
        Assert.Contains("\r\nKH-C1,", csv, StringComparison.Ordinal);
        Assert.Contains("choose one", await Client.Detail(await viewer.Get("/api/lists/summary?by=colour")), StringComparison.Ordinal);
        foreach (string form in (string[])["zinc", "trio", "json", "brick"])
            Assert.Contains("kiln-temp", await (await viewer.Get($"/api/tags/export?form={form}")).Content.ReadAsStringAsync(), StringComparison.Ordinal);
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
        Assert.Equal(Project.All<Point>().Count(p => Project.Find<Equipment>(p.OwnerId)?.Kind == "kiln"), trial["count"]!.GetValue<int>());
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

    [Fact]
    public async Task A_tagged_model_is_looked_at_and_taken_as_one_change()
    {
        Client engineer = await server.As("engineer");
        byte[] own = await (await engineer.Get("/api/tags/export?form=trio")).Content.ReadAsByteArrayAsync();
        var (status, view) = await Send(engineer, "/api/tags/model", own);
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal((0, 0, 0), (view["adds"]!.GetValue<int>(), view["changes"]!.GetValue<int>(), view["leftOut"]!.GetValue<int>()));
        byte[] renamed = Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(own).Replace("\"Glaze store\"", "\"Glaze room\"", StringComparison.Ordinal));
        Assert.Equal(1, (await Send(engineer, "/api/tags/model", renamed)).Body["changes"]!.GetValue<int>());
        long revision = Project.Revision;
        Assert.True((await Send(engineer, "/api/tags/model?take=true", renamed)).Body["taken"]!.GetValue<bool>());
        Assert.Contains(Project.All<Place>(), p => p.Name == "Glaze room");
        Assert.Equal(revision + 1, Project.Revision);
        await Post(engineer, "/api/undo", new { });
        Assert.Contains("at character", (await Send(engineer, "/api/tags/model", Encoding.UTF8.GetBytes("ver:\"3.0\"\nid,dis\n@a,\"open"))).Body["detail"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_library_file_that_clashes_is_decided_template_by_template()
    {
        Client engineer = await server.As("engineer");
        async Task<string> Library(string name) => (await Post(engineer, "/api/libraries", new { name, shared = true }))["id"]!.GetValue<string>();
        async Task<JsonNode> Copy(string library, string from, string template) => await Post(engineer, $"/api/libraries/{library}/copy", new { fromLibrary = from, templateId = template });
        async Task<byte[]> FileOf(string library) => await (await engineer.Get($"/api/libraries/{library}/file")).Content.ReadAsByteArrayAsync();
        async Task<string[]> Names(string library) => [.. (await engineer.Read("/api/libraries")).AsArray().Single(l => l!["id"]!.GetValue<string>() == library)!["templates"]!.AsArray().Select(t => $"{t!["name"]} {t["revision"]}").Order()];
        string theirs = await Library("Theirs"), ours = await Library("Ours");
        string fan = (await Copy(theirs, "starter", "fcu-2"))["id"]!.GetValue<string>(), kiln = (await Copy(theirs, "starter", "kiln"))["id"]!.GetValue<string>();
        Assert.Equal(2, (await Send(engineer, $"/api/libraries/{ours}/file?take=true", await FileOf(theirs))).Body["new"]!.AsArray().Count);
        // Both go on: theirs to revision 2 in the fan-coil and the kiln, ours too.
        foreach (string library in (string[])[theirs, ours])
        {
            foreach (string id in (string[])[fan, kiln])
            {
                JsonNode template = (await engineer.Read($"/api/libraries/{library}/templates/{id}"))["template"]!;
                template["comment"] = $"changed in {library}";
                await Post(engineer, $"/api/libraries/{library}/templates", new JsonObject { ["template"] = template.DeepClone(), ["from"] = 1 });
            }
        }
        await Copy(ours, "starter", "room-humid");
        await Copy(theirs, "starter", "room-humid");
        byte[] file = await FileOf(theirs);
        var clashes = (await Send(engineer, $"/api/libraries/{ours}/file", file)).Body["clashes"]!.AsArray();
        Assert.Equal(3, clashes.Count);
        Assert.Contains(clashes, c => c!["here"]!.GetValue<string>().StartsWith("another template of this name", StringComparison.Ordinal));
        string[] before = await Names(ours);
        await Send(engineer, $"/api/libraries/{ours}/file?take=true", file);
        Assert.Equal(before, await Names(ours));
        string namesake = clashes.Single(c => c!["here"]!.GetValue<string>().StartsWith("another", StringComparison.Ordinal))!["templateId"]!.GetValue<string>();
        await Send(engineer, $"/api/libraries/{ours}/file?take=true&next={fan}&own={kiln},{namesake}", file);
        string[] expected = [.. before.Select(n => n == "Fan-coil, two-pipe 2" ? "Fan-coil, two-pipe 3" : n).Concat(["Humidified room (Theirs) 1", "Kiln (Theirs) 1"]).Order()];
        Assert.Equal(expected, await Names(ours));
        // What was here stays: the earlier revision can still be read.
        Assert.Equal($"changed in {ours}", (await engineer.Read($"/api/libraries/{ours}/templates/{fan}?revision=2"))["template"]!["comment"]!.GetValue<string>());
        // Closed for writing, nothing comes in.
        (await engineer.Post($"/api/libraries/{ours}/reading", new { isForReading = true })).EnsureSuccessStatusCode();
        Assert.Contains("is for reading", (await Send(engineer, $"/api/libraries/{ours}/file?take=true", file)).Body["detail"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("ships with the program", await Client.Detail(await engineer.Post("/api/libraries/starter/reading", new { isForReading = false })), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_large_list_is_taken_as_a_job_that_can_be_stopped_without_a_trace_and_resumed()
    {
        Client engineer = await server.As("engineer");
        var rows = new StringBuilder("Building,Floor,Room,Point,Type,Unit\n");
        for (int i = 0; i < 12_000; i++) rows.Append(System.Globalization.CultureInfo.InvariantCulture, $"Long barn,Floor {i / 1000},Bay {i / 4},Probe {i % 4},AI,°C\n");
        JsonNode list = (await Send(engineer, "/api/lists", Encoding.UTF8.GetBytes(rows.ToString()))).Body;
        var request = new JsonObject { ["token"] = list["token"]!.DeepClone(), ["sheet"] = 0, ["mapping"] = list["sheets"]![0]!["proposed"]!.DeepClone() };
        Project before = Project;
        var jobs = server.Get<Jobs.JobRunner>();
        var seen = new List<string>();
        void Watch(Jobs.JobView job)
        {
            seen.Add(job.Message);
            // Stopped by somebody as soon as it is under way.
            if (job.Kind == "import" && job.Done > 0 && seen.Count(m => m.StartsWith("Stopped", StringComparison.Ordinal)) == 0) jobs.Stop(job.Id);
        }
        jobs.Moved += Watch;
        string id = (await Post(engineer, "/api/lists/apply/start", request))["id"]!.GetValue<string>();
        Jobs.JobView stopped = await jobs.Finish(id);
        jobs.Moved -= Watch;
        Assert.Equal(Jobs.JobState.Stopped, stopped.State);
        Assert.Contains(seen, m => m.StartsWith("Reading row", StringComparison.Ordinal));
        Assert.Same(before, Project);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"/api/jobs/{id}/resume")).StatusCode);
        Jobs.JobView done = await jobs.Finish(id);
        Assert.Equal((Jobs.JobState.Done, before.Revision + 1), (done.State, Project.Revision));
        Assert.Contains("adds 12,000 points", done.Message, StringComparison.Ordinal);
        Assert.Equal(12_000, Project.All<Point>().Count(p => p.Name.StartsWith("Probe", StringComparison.Ordinal)));
        // The same once more has nothing to do, and says so.
        string again = (await Post(engineer, "/api/lists/apply/start", request))["id"]!.GetValue<string>();
        Jobs.JobView failed = await jobs.Finish(again);
        Assert.Equal((Jobs.JobState.Failed, "The list says nothing that is not so already. Nothing was changed."), (failed.State, failed.Message));
        await Post(engineer, "/api/undo", new { });
        Assert.Equal(before.Count, Project.Count);
    }

    [Fact]
    public async Task A_large_placing_is_a_job_that_only_engineers_stop_and_that_leaves_nothing_when_stopped()
    {
        Client engineer = await server.As("engineer"), technician = await server.As("technician");
        Project before = Project;
        var jobs = server.Get<Jobs.JobRunner>();
        using var under = new SemaphoreSlim(0);
        void Watch(Jobs.JobView job)
        {
            if (job.Kind != "placing" || job.Done < 50 || job.State != Jobs.JobState.Running) return;
            // Held at its first safe point until somebody has tried to stop it.
            jobs.Moved -= Watch;
            under.Wait(TimeSpan.FromSeconds(20));
        }
        jobs.Moved += Watch;
        var request = new { libraryId = "demo", templateId = "pottery-fan-coil", placing = new { places = new[] { "kh-g-office" }, each = 100, namePattern = "Spare {n}" } };
        // A hundred room temperatures of one name in one room cannot be: the preview says so, and so does the job.
        JsonNode preview = await Post(engineer, "/api/templates/place/preview", request);
        Assert.NotEmpty(preview["refusals"]!.AsArray());
        string id = (await Post(engineer, "/api/templates/place/start", new { libraryId = "starter", templateId = "lights-switched", placing = new { places = new[] { "kh-g-office" }, each = 100, namePattern = "Spare {n}" } }))["id"]!.GetValue<string>();
        Assert.Equal("This job changes the project, so it takes an engineer to stop or resume it.", await Client.Detail(await technician.Post($"/api/jobs/{id}/stop")));
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"/api/jobs/{id}/stop")).StatusCode);
        under.Release();
        Jobs.JobView stopped = await jobs.Finish(id);
        Assert.Equal(Jobs.JobState.Stopped, stopped.State);
        Assert.EndsWith("Nothing was changed; resume to begin it again.", stopped.Message, StringComparison.Ordinal);
        Assert.Same(before, Project);
        Assert.Equal("This job changes the project, so it takes an engineer to stop or resume it.", await Client.Detail(await technician.Post($"/api/jobs/{id}/resume")));
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"/api/jobs/{id}/resume")).StatusCode);
        Assert.Equal("Placed 100 × ‘Switched lighting group’", (await jobs.Finish(id)).Message);
        Assert.Equal(100, Project.All<Equipment>().Count(e => e.Name.StartsWith("Spare ", StringComparison.Ordinal)));
        await Post(engineer, "/api/undo", new { });
        string refused = (await Post(engineer, "/api/templates/place/start", request))["id"]!.GetValue<string>();
        Jobs.JobView failed = await jobs.Finish(refused);
        Assert.Equal(Jobs.JobState.Failed, failed.State);
        Assert.Contains("There is already a point called ‘Room temperature’ here", failed.Message, StringComparison.Ordinal);
        Assert.Equal(before.Count, Project.Count);
    }

    [Fact]
    public async Task Copies_of_a_room_can_be_a_job_too()
    {
        Client engineer = await server.As("engineer");
        int before = Project.Count;
        string id = (await Post(engineer, "/api/copies/start", new { recordId = "kh-g-office", times = 30, namePattern = "Bureau {n}" }))["id"]!.GetValue<string>();
        Assert.Equal("Copied ‘Office’ 30 ×", (await server.Get<Jobs.JobRunner>().Finish(id)).Message);
        Assert.Equal(30, Project.All<Place>().Count(p => p.Name.StartsWith("Bureau ", StringComparison.Ordinal)));
        await Post(engineer, "/api/undo", new { });
        Assert.Equal(before, Project.Count);
    }

    [Fact]
    public async Task A_list_places_the_demos_fan_coil_with_values_and_says_what_cannot_be()
    {
        Client engineer = await server.As("engineer");
        string csv = "Building,Floor,Room,Equipment,Template,Values\nKiln House,Ground floor,Lobby,Fan-coil L,Heating fan-coil,setpoint = 19; Opening hours = Opening hours; Controller = KH-C4\nKiln House,Ground floor,Lobby,Fan-coil M,Heating fan-coil,Controller = KH-C9\nKiln House,Ground floor,Lobby,Fan-coil N,No such,\n";
        JsonNode list = (await Send(engineer, "/api/lists", Encoding.UTF8.GetBytes(csv))).Body;
        JsonNode mapping = list["sheets"]![0]!["proposed"]!.DeepClone();
        mapping["blankIsAbove"] = false;
        var request = new JsonObject { ["token"] = list["token"]!.DeepClone(), ["sheet"] = 0, ["mapping"] = mapping };
        JsonNode preview = await Post(engineer, "/api/lists/preview", request);
        string[] bad = [.. preview["badCells"]!.AsArray().Select(c => $"{c!["row"]}: {c["sentence"]}")];
        Assert.Equal("3: There is no controller called ‘KH-C9’ in the project.", bad[0]);
        Assert.StartsWith("4: There is no template ‘No such’ in your libraries.", bad[1], StringComparison.Ordinal);
        request["goodRowsOnly"] = true;
        await Post(engineer, "/api/lists/apply", request);
        Equipment placed = Project.All<Equipment>().Single(e => e.Name == "Fan-coil L");
        Assert.Equal(("19", "pottery-fan-coil"), (placed.Placed!.Values["setpoint"], placed.Placed.TemplateId));
        Assert.Equal("✓", (await engineer.Read($"/api/placements/{placed.Id}"))["differences"]!.AsArray().Count == 0 ? "✓" : "differs");
        await Post(engineer, "/api/undo", new { });
    }
}
