using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Formats.Projects;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>Several projects in one installation, side by side.</summary>
public class ProjectsTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static async Task<string> Make(Client client, string name, string? copyOf = null)
    {
        HttpResponseMessage answer = await client.Post("/api/projects", new { name, copyOf });
        Assert.True(answer.IsSuccessStatusCode, await answer.Content.ReadAsStringAsync());
        return JsonNode.Parse(await answer.Content.ReadAsStringAsync())!["id"]!.GetValue<string>();
    }

    private static Edit Site(string name) => Edit.Of(new Place { Id = new("site"), Name = name, Kind = PlaceKind.Site, TimeZone = "Europe/London" }, 0);

    [Fact]
    public async Task A_new_project_is_empty_and_edits_of_one_do_not_reach_another()
    {
        Client engineer = await server.As("engineer");
        string id = await Make(engineer, "Boat house");
        Assert.Equal("boat-house", id);
        JsonNode state = await engineer.Read($"/p/{id}/api/project");
        Assert.Equal((0, null), (state["revision"]!.GetValue<long>(), state["siteName"]));
        long revision = server.Get<Workspace>().Project.Revision;
        HttpResponseMessage put = await engineer.Post($"/p/{id}/api/changes", new { edits = new[] { Site("Boat house") } });
        Assert.Equal(HttpStatusCode.OK, put.StatusCode);
        Assert.Equal("Boat house", (await engineer.Read($"/p/{id}/api/project"))["siteName"]!.GetValue<string>());
        Assert.Equal(revision, server.Get<Workspace>().Project.Revision);
        Assert.Equal("Saltmarsh Pottery", (await engineer.Read("/api/project"))["siteName"]!.GetValue<string>());
        // Its site has a clock of its own, and undo is its own.
        Assert.Equal(HttpStatusCode.OK, (await engineer.Post($"/p/{id}/api/site/clock", new { speed = 600 })).StatusCode);
        Assert.Equal(1, server.Get<Installation.SiteHost>().Clock().Speed);
        Assert.Equal(HttpStatusCode.OK, (await engineer.Post($"/p/{id}/api/undo")).StatusCode);
        Assert.Null((await engineer.Read($"/p/{id}/api/project"))["siteName"]);
        JsonNode line = (await engineer.Read("/api/projects")).AsArray().Single(p => p!["id"]!.GetValue<string>() == id)!;
        Assert.Equal((true, false, 2L), (line["isOpen"]!.GetValue<bool>(), line["isThis"]!.GetValue<bool>(), line["revision"]!.GetValue<long>()));
    }

    [Fact]
    public async Task A_copy_has_the_design_and_its_history_and_differs_only_by_what_is_changed_in_it()
    {
        Client engineer = await server.As("engineer");
        string id = await Make(engineer, "Pottery, second try", "main");
        Project mine = server.Get<Workspace>().Project;
        Assert.Equal(mine.Revision, (await engineer.Read($"/p/{id}/api/project"))["revision"]!.GetValue<long>());
        Assert.Equal((await engineer.Read("/api/history")).ToJsonString(), (await engineer.Read($"/p/{id}/api/history")).ToJsonString());
        // Nothing is installed on its site.
        Assert.All((await engineer.Read($"/p/{id}/api/commission")).AsArray(), c => Assert.True(c!["changes"]!.GetValue<int>() > 0));
        Assert.Empty((await engineer.Read($"/p/{id}/api/projects/main/differences"))["records"]!.AsArray());
        Place room = mine.Find<Place>(new("kh-1-kiln-room"))!;
        Assert.Equal(HttpStatusCode.OK, (await engineer.Post($"/p/{id}/api/changes", new { edits = new[] { Edit.Of(room with { Name = "Firing room" }) } })).StatusCode);
        JsonNode differences = await engineer.Read($"/p/{id}/api/projects/main/differences");
        JsonNode only = Assert.Single(differences["records"]!.AsArray())!;
        Assert.Equal(("Firing room", "name", "Kiln room", "Firing room"), (only["name"]!.GetValue<string>(), only["fields"]![0]!["field"]!.GetValue<string>(), only["fields"]![0]!["before"]!.GetValue<string>(), only["fields"]![0]!["after"]!.GetValue<string>()));
        string csv = await (await engineer.Get($"/p/{id}/api/projects/main/differences/list")).Content.ReadAsStringAsync();
        Assert.Contains("changed,room,Firing room,Kiln House › First floor,name,Kiln room,Firing room", csv, StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_archived_project_is_shut_kept_and_brought_back()
    {
        Client engineer = await server.As("engineer");
        string id = await Make(engineer, "Old kiln yard");
        Assert.Equal(HttpStatusCode.OK, (await engineer.Post($"/p/{id}/api/changes", new { edits = new[] { Site("Old kiln yard") } })).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"/api/projects/{id}/archive")).StatusCode);
        HttpResponseMessage shut = await engineer.Get($"/p/{id}/api/project");
        Assert.Equal(HttpStatusCode.NotFound, shut.StatusCode);
        Assert.Contains("archived", await Client.Detail(shut), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"/api/projects/{id}/restore")).StatusCode);
        Assert.Equal("Old kiln yard", (await engineer.Read($"/p/{id}/api/project"))["siteName"]!.GetValue<string>());
        Assert.Contains("answers at the root", await Client.Detail(await engineer.Post("/api/projects/main/archive")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_cannot_be_a_project_is_refused_in_words_and_makes_nothing()
    {
        Client engineer = await server.As("engineer");
        await Make(engineer, "Twice");
        int before = (await engineer.Read("/api/projects")).AsArray().Count;
        Assert.Contains("already a project called ‘TWICE’", await Client.Detail(await engineer.Post("/api/projects", new { name = "TWICE" })), StringComparison.Ordinal);
        Assert.Contains("1 to 80 characters", await Client.Detail(await engineer.Post("/api/projects", new { name = " " })), StringComparison.Ordinal);
        Assert.Contains("not there", await Client.Detail(await engineer.Post("/api/projects", new { name = "Copy", copyOf = "../accounts" })), StringComparison.Ordinal);
        Assert.Equal(before, (await engineer.Read("/api/projects")).AsArray().Count);
        foreach (string id in (string[])["nothing", "%2e%2e%2faccounts", "UPPER"])
            Assert.Equal(HttpStatusCode.NotFound, (await engineer.Get($"/p/{id}/api/project")).StatusCode);
    }

    [Fact]
    public async Task Who_is_not_signed_in_opens_no_project_and_a_sign_in_below_one_counts_for_all()
    {
        Client engineer = await server.As("engineer");
        string id = await Make(engineer, "Quiet");
        Client nobody = server.Anybody();
        Assert.Equal(HttpStatusCode.Unauthorized, (await nobody.Get($"/p/{id}/api/project")).StatusCode);
        Assert.DoesNotContain(server.Get<ProjectDirectory>().AllOpen, p => p.Id == id);
        Assert.Equal(HttpStatusCode.OK, (await nobody.Post($"/p/{id}/api/sign-in", new { name = "viewer", password = "saltmarsh" })).StatusCode);
        await nobody.Read("/api/project");
        await nobody.Read($"/p/{id}/api/project");
        Assert.Equal(HttpStatusCode.Forbidden, (await nobody.Post($"/p/{id}/api/changes", new { edits = new[] { Site("No") } })).StatusCode);
        var foreign = new HttpRequestMessage(HttpMethod.Post, $"/p/{id}/api/undo");
        foreign.Headers.Add("Origin", "http://evil.example");
        Assert.Equal(HttpStatusCode.Forbidden, (await engineer.Http.SendAsync(foreign)).StatusCode);
    }

    [Fact]
    public async Task Daily_copies_are_whole_project_files_and_a_wrong_folder_is_refused()
    {
        Client administrator = await server.As("administrator");
        string folder = Directory.CreateTempSubdirectory("lofty-wren-copies-").FullName;
        string old = Path.Combine(folder, $"main_{DateTime.Now.AddDays(-11):yyyy-MM-dd}.wren"), young = Path.Combine(folder, $"main_{DateTime.Now.AddDays(-9):yyyy-MM-dd}.wren"), others = Path.Combine(folder, "plans_2001-01-01.wren");
        foreach (string file in (string[])[old, young, others]) File.WriteAllText(file, "");
        Assert.Contains("no whole path", await Client.Detail(await administrator.Post("/api/daily-copies", new { folder = "copies", keepDays = 10 })), StringComparison.Ordinal);
        Assert.Contains("no folder", await Client.Detail(await administrator.Post("/api/daily-copies", new { folder = folder + "x", keepDays = 10 })), StringComparison.Ordinal);
        Assert.Contains("1 to 3650", await Client.Detail(await administrator.Post("/api/daily-copies", new { folder, keepDays = 0 })), StringComparison.Ordinal);
        JsonNode view = JsonNode.Parse(await (await administrator.Post("/api/daily-copies", new { folder, keepDays = 2 })).Content.ReadAsStringAsync())!;
        Assert.True(view["lastCount"]!.GetValue<int>() >= 1);
        ProjectFile.Content content = ProjectFile.Read(File.ReadAllBytes(Path.Combine(folder, $"main_{DateTime.Now:yyyy-MM-dd}.wren")));
        Assert.Empty(content.Problems);
        Assert.Equal(server.Get<Workspace>().Project.Count, content.Records.Count);
        // Two stay, counted and not by the calendar: today's and the younger one; other projects' are left alone.
        Assert.Equal((false, true, true), (File.Exists(old), File.Exists(young), File.Exists(others)));
        Assert.Empty(Directory.GetFiles(folder, "*.part"));
        Assert.Equal(HttpStatusCode.OK, (await administrator.Post("/api/daily-copies", new { folder = "", keepDays = 10 })).StatusCode);
        Directory.Delete(folder, recursive: true);
    }

    [Fact]
    public async Task A_project_is_archived_from_within_and_never_breaks_a_request_on_its_way()
    {
        Client engineer = await server.As("engineer");
        string id = await Make(engineer, "Busy yard");
        Assert.Equal(HttpStatusCode.OK, (await engineer.Post($"/p/{id}/api/changes", new { edits = new[] { Site("Busy yard") } })).StatusCode);
        using var stop = new CancellationTokenSource();
        var seen = new System.Collections.Concurrent.ConcurrentBag<HttpStatusCode>();
        Task[] readers = [.. Enumerable.Range(0, 4).Select(_ => Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested) seen.Add((await engineer.Get($"/p/{id}/api/findings")).StatusCode);
        }))];
        while (seen.Count < 20) await Task.Delay(5);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"/p/{id}/api/projects/{id}/archive")).StatusCode);
        int at = seen.Count;
        while (seen.Count < at + 20) await Task.Delay(5);
        await stop.CancelAsync();
        await Task.WhenAll(readers);
        // Before it was shut they had answers, afterwards the sentence; nothing else came between.
        Assert.Equal([HttpStatusCode.OK, HttpStatusCode.NotFound], seen.Distinct().Order());
    }
}
