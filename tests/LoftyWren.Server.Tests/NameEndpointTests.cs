using System.Text.Json.Nodes;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>The naming convention and the spelling over HTTP.</summary>
public class NameEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    private Workspace Workspace => server.Get<Workspace>();

    private static async Task<JsonNode> Post(Client client, string path, object body)
    {
        HttpResponseMessage answer = await client.Post(path, body);
        string text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, text);
        return JsonNode.Parse(text)!;
    }

    private static JsonObject Convention(string kind, string pattern, string? letters = null) => new()
    {
        ["type"] = "namingConvention",
        ["id"] = "naming-convention",
        ["name"] = "Naming convention",
        ["rules"] = new JsonArray(new JsonObject { ["for"] = kind, ["pattern"] = pattern, ["letters"] = letters }),
    };

    [Fact]
    public async Task A_convention_is_tried_kept_and_names_follow_it_in_one_step()
    {
        Client engineer = await server.As("engineer");
        JsonNode trial = await Post(engineer, "/api/names/try", Convention("controller", "{building} panel {n}"));
        int controllers = Workspace.Project.All<LoftyWren.Core.Hardware.Controller>().Count();
        Assert.Equal((controllers, controllers), (trial["rules"]![0]!["records"]!.GetValue<int>(), trial["rules"]![0]!["depart"]!.GetValue<int>()));
        Assert.Contains("no token", (await Post(engineer, "/api/names/try", Convention("controller", "{town}")))["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);

        await Post(engineer, "/api/changes", new { edits = new[] { new { put = Convention("controller", "{building} panel {n}"), from = Workspace.Project.FindEntry(NamingConvention.Empty.Id)?.Revision ?? 0 } } });
        JsonNode names = JsonNode.Parse(await (await engineer.Get("/api/names")).Content.ReadAsStringAsync())!;
        Assert.Equal(controllers, names["departureCount"]!.GetValue<int>());
        JsonNode departure = names["departures"]!.AsArray().Single(d => d!["name"]!.GetValue<string>() == "KH-C2")!;
        Assert.Equal(("KH panel 2", "does not follow {building} panel {n}"), (departure["proposed"]!.GetValue<string>(), departure["why"]!.GetValue<string>()));
        JsonNode preview = await Post(engineer, "/api/names/fix/preview", new { ids = Array.Empty<string>() });
        Assert.Equal(controllers, preview.AsArray().Count);
        long revision = Workspace.Project.Revision;
        await Post(engineer, "/api/names/fix", new { ids = Array.Empty<string>() });
        Assert.Equal(revision + 1, Workspace.Project.Revision);
        Assert.DoesNotContain(Workspace.Findings.All, f => f.Code == "name");
        Assert.Contains("None of these", await Client.Detail(await engineer.Post("/api/names/fix", new { ids = Array.Empty<string>() })), StringComparison.Ordinal);
        await Post(engineer, "/api/undo", new { });
        Assert.Contains(Workspace.Project.All<LoftyWren.Core.Hardware.Controller>(), c => c.Name == "KH-C2");
        await Post(engineer, "/api/undo", new { });
    }

    [Fact]
    public async Task A_misspelt_word_is_corrected_everywhere_or_made_the_projects_own()
    {
        Client engineer = await server.As("engineer");
        Project project = Workspace.Project;
        Point[] two = [.. project.All<Point>().Where(p => p.Name.Contains("temperature", StringComparison.Ordinal)).OrderBy(p => p.Id).Take(2)];
        Assert.True(Workspace.Apply([.. two.Select(p => Edit.Of(p with { Name = p.Name.Replace("temperature", "temprature", StringComparison.Ordinal), Description = "beside the saggar" }))], "engineer").Accepted);
        var words = JsonNode.Parse(await (await engineer.Get("/api/names")).Content.ReadAsStringAsync())!["words"]!.AsArray();
        Assert.Equal([("saggar", 2, null), ("temprature", 2, "temperature")], words.Select(w => (w!["word"]!.GetValue<string>(), w["count"]!.GetValue<int>(), w["suggestion"]?.GetValue<string>())));
        Assert.Equal(2, (await Post(engineer, "/api/names/words/preview", new { word = "temprature", to = "temperature" })).AsArray().Count);
        await Post(engineer, "/api/names/words/correct", new { word = "temprature", to = "temperature" });
        Assert.Equal(two.Select(p => p.Name), two.Select(p => Workspace.Project.Find(p.Id)!.Name));
        await Post(engineer, "/api/names/words/own", new { words = new[] { "Saggar" } });
        Assert.Contains("saggar", NamingConvention.Of(Workspace.Project)!.Words);
        Assert.DoesNotContain(Workspace.Findings.All, f => f.Code == "spelling");
        Assert.Contains("known already", await Client.Detail(await engineer.Post("/api/names/words/own", new { words = new[] { "saggar" } })), StringComparison.Ordinal);
        Assert.Contains("nowhere", await Client.Detail(await engineer.Post("/api/names/words/correct", new { word = "temprature", to = "temperature" })), StringComparison.Ordinal);
    }
}
