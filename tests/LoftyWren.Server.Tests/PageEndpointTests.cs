using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>What each page asks the server for.</summary>
public class PageEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static IEnumerable<string> Texts(JsonNode list, string field) => list.AsArray().Select(x => x![field]!.GetValue<string>());

    private static async Task<JsonNode> Body(HttpResponseMessage response)
    {
        string text = await response.Content.ReadAsStringAsync();
        Assert.True(response.IsSuccessStatusCode, text);
        return JsonNode.Parse(text)!;
    }

    [Fact]
    public async Task The_where_bar_leads_from_the_site_down_with_siblings_and_children()
    {
        JsonNode crumbs = await (await server.As("viewer")).Read("/api/places/kiln-1/crumbs");
        Assert.Equal(["Saltmarsh Pottery", "Kiln House", "First floor", "Kiln room"], Texts(crumbs, "name"));
        Assert.Equal(["Roof", "First floor", "Ground floor", "Basement"], Texts(crumbs[1]!["children"]!, "name"));
        Assert.Equal(["Kiln House", "Barn", "Yard"], Texts(crumbs[1]!["siblings"]!, "name"));
    }

    [Fact]
    public async Task The_points_of_a_scope_are_all_beneath_it_in_a_stable_order_and_page()
    {
        Client viewer = await server.As("viewer");
        JsonNode all = (await viewer.Read("/api/grid/point?scope=kiln-extract"))["rows"]!;
        Assert.Equal(["Extract fan", "Extract fan status", "Filter pressure", "High limit"], all.AsArray().Select(r => r!["name"]!.GetValue<string>()));
        Assert.Equal("KH-C1 · RO1", all[0]!["cells"]!.AsArray()[^1]!.GetValue<string>());
        JsonNode room = (await viewer.Read("/api/grid/point?scope=kh-1-kiln-room"))["rows"]!;
        Assert.Equal(["Humidity", "Presence", "Room temperature", "Smoke alarm", "Extract fan"], room.AsArray().Take(5).Select(r => r!["name"]!.GetValue<string>()));
        Assert.Equal("", room.AsArray().First(r => r!["name"]!.GetValue<string>() == "Kiln temperature")!["cells"]!.AsArray()[^1]!.GetValue<string>());
        JsonNode page = (await viewer.Read("/api/grid/point?scope=kiln-extract&offset=1&count=2"))["rows"]!;
        Assert.Equal(["Extract fan status", "Filter pressure"], page.AsArray().Select(r => r!["name"]!.GetValue<string>()));
        Assert.Equal(HttpStatusCode.NotFound, (await viewer.Get("/api/grid/point?scope=../etc/passwd")).StatusCode);
    }

    [Fact]
    public async Task A_floor_view_has_outlines_labels_inside_them_and_what_colours_each_room()
    {
        JsonNode view = await (await server.As("viewer")).Read("/api/floors/kh-1/view");
        JsonNode drying = view["rooms"]!.AsArray().Single(r => r!["name"]!.GetValue<string>() == "Drying room")!;
        Assert.Equal(["Temperature", "Humidity", "CO₂", "Presence"], Texts(drying["measures"]!, "name"));
        Assert.Equal(("dry-temp", "dry-sp"), (drying["measures"]![0]!["pointId"]!.GetValue<string>(), drying["measures"]![0]!["setpointId"]!.GetValue<string>()));
        // A distance between temperatures is in kelvin, whatever the scale they are read on.
        Assert.Equal("K", view["measures"]![0]!["differenceUnit"]!.GetValue<string>());
        foreach (JsonNode? room in view["rooms"]!.AsArray())
        {
            var outline = room!["outline"]!.AsArray().Select(c => new Core.Places.Corner(c!["x"]!.GetValue<double>(), c["y"]!.GetValue<double>())).ToList();
            Assert.True(Core.Places.Outlines.Contains(outline, room["label"]!["x"]!.GetValue<double>(), room["label"]!["y"]!.GetValue<double>()));
        }
    }

    [Fact]
    public async Task A_panel_shows_terminals_memory_and_what_has_no_source()
    {
        Client engineer = await server.As("engineer");
        JsonNode panel = await engineer.Read("/api/controllers/kh-c1/panel");
        // The controller's own 20, and 12 of the mixed module; 27 of them are taken.
        Assert.Equal(32, panel["terminals"]!.AsArray().Count);
        Assert.Equal(5, panel["spare"]!.GetValue<int>());
        Assert.Contains("Kiln temperature", panel["unplaced"]!.AsArray().Select(r => r!["point"]!["name"]!.GetValue<string>()));
        JsonNode readings = await engineer.Read("/api/controllers/kh-c1/terminals");
        JsonNode silent = readings.AsArray().Single(r => r!["terminal"]!.GetValue<string>() == "UI7")!;
        Assert.Contains("open circuit", silent["trouble"]!.GetValue<string>());
        Assert.InRange(readings.AsArray().Single(r => r!["terminal"]!.GetValue<string>() == "UI1")!["raw"]!.GetValue<double>(), 1000, 1200);
    }

    [Fact]
    public async Task Points_go_onto_terminals_or_are_refused_with_the_reason()
    {
        Client engineer = await server.As("engineer");
        Assert.Contains("UI1 is taken by ‘Room temperature’", await Client.Detail(await engineer.Post("/api/controllers/kh-c1/terminals", new { pointId = "kiln-1-temp", terminal = "UI1" })));
        Assert.Contains("BI4 carries dry contact", await Client.Detail(await engineer.Post("/api/controllers/kh-c1/terminals", new { pointId = "kiln-1-temp", terminal = "BI4" })));
        Assert.Contains("has no terminal ‘XX1’", await Client.Detail(await engineer.Post("/api/controllers/kh-c1/terminals", new { pointId = "kiln-1-temp", terminal = "XX1" })));
        JsonNode moved = await Body(await engineer.Post("/api/controllers/kh-c4/terminals", new { pointId = "kiln-1-temp", terminal = "UI8" }));
        Assert.Equal("Put ‘Kiln temperature’ onto KH-C4 UI8", moved["label"]!.GetValue<string>());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task Fit_the_points_proposes_first_and_tells_what_is_left()
    {
        Client engineer = await server.As("engineer");
        JsonNode proposal = await engineer.Read("/api/controllers/kh-c2/fit");
        Assert.Equal("2 of 2 points without a source fit onto KH-C2.", proposal["sentence"]!.GetValue<string>());
        Assert.Equal(["2.UI1", "2.UI2"], Texts(proposal["fittings"]!, "terminal").OrderBy(t => t[0] == 'R').ThenBy(t => t));
        JsonNode done = await Body(await engineer.Post("/api/controllers/kh-c2/fit"));
        Assert.Equal("Fitted 2 points onto KH-C2", done["label"]!.GetValue<string>());
        Assert.Contains("Every point has a source", await Client.Detail(await engineer.Post("/api/controllers/kh-c2/fit")));
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_sequence_comes_with_types_conversions_units_and_whole_ladders()
    {
        Client engineer = await server.As("engineer");
        JsonNode view = await engineer.Read("/api/sequences/kiln-seq");
        Assert.Equal([9, 15], view["ladders"]![0]!["rungs"]!.AsArray().Select(r => r!["priority"]!.GetValue<int>()));
        Assert.Equal("off", view["ladders"]![0]!["fallback"]!.GetValue<string>());
        Assert.Equal("K", view["settingUnits"]!.AsArray().Single()!["unit"]!.GetValue<string>());
        Assert.Equal("%RH", (await engineer.Read("/api/sequences/dry-humid-seq"))["settingUnits"]!.AsArray().Single(u => u!["setting"]!.GetValue<string>() == "differential")!["unit"]!.GetValue<string>());

        var sequence = server.Get<Workspace>().Project.Find<Sequence>(new("kiln-seq"))!;
        Block block = sequence.Blocks[0];
        var inputs = new Dictionary<string, Source>(block.Inputs) { ["limit"] = new ConstantSource(84.2, "°F") };
        Assert.Equal(200, (await engineer.Change(Edit.Of(sequence with { Blocks = [block with { Inputs = inputs }] }))).Status);
        Assert.Equal("°F → °C", (await engineer.Read("/api/sequences/kiln-seq"))["conversions"]![0]!["text"]!.GetValue<string>());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Theory]
    [InlineData("29 °C", "constant", "29 °C")]
    [InlineData("high limit", "point", "High limit")]
    [InlineData("opening", "schedule", "Opening hours")]
    [InlineData("high temperature", "block", "High temperature")]
    public async Task A_typed_source_is_understood(string text, string from, string name)
    {
        JsonNode guesses = await Body(await (await server.As("viewer")).Post("/api/sequences/kiln-seq/sources", new { text }));
        Assert.Equal((from, name), (guesses[0]!["source"]!["from"]!.GetValue<string>(), guesses[0]!["name"]!.GetValue<string>()));
    }

    [Fact]
    public async Task Points_of_the_sequences_own_room_are_offered_first()
    {
        JsonNode guesses = await Body(await (await server.As("viewer")).Post("/api/sequences/stb-seq/sources", new { text = "room temperature" }));
        Assert.Equal("stb-temp", guesses[0]!["source"]!["pointId"]!.GetValue<string>());
    }

    [Fact]
    public async Task Schedules_say_what_they_will_do_and_who_decides()
    {
        Client viewer = await server.As("viewer");
        JsonNode days = await viewer.Read("/api/schedules/hours/days?from=2026-10-24&days=2");
        Assert.Equal(["09:00Z", "10:00Z"], days.AsArray().Select(d => d!["stretches"]![0]!["fromUtc"]!.GetValue<string>()));
        Assert.Equal("clocks go back: 25 h", days[1]!["clockChange"]!.GetValue<string>());
        Assert.Equal(60, (await viewer.Read("/api/schedules/hours/days")).AsArray().Count);
        Assert.Contains("is not a date", await Client.Detail(await viewer.Get("/api/schedules/hours/days?from=soon")));
        JsonNode view = await viewer.Read("/api/schedules/hours");
        Assert.Contains(view["drives"]!.AsArray(), d => d!["name"]!.GetValue<string>() == "Extract · Extract fan" && d["inCharge"]!.GetValue<bool>());
        Assert.Equal("Week: Tuesday", view["today"]!.AsArray().Single(r => r!["decides"]!.GetValue<bool>())!["rule"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_phrase_is_tried_by_anybody_and_applied_by_engineers()
    {
        Client viewer = await server.As("viewer"), engineer = await server.As("engineer");
        JsonNode tried = await Body(await viewer.Post("/api/schedules/courses/phrase", new { text = "wed 18-20 course", apply = false }));
        Assert.False(tried["applied"]!.GetValue<bool>());
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post("/api/schedules/courses/phrase", new { text = "wed 18-20 course", apply = true })).StatusCode);
        JsonNode wrong = await Body(await engineer.Post("/api/schedules/courses/phrase", new { text = "wed 20-18 course", apply = true }));
        Assert.Equal(4, wrong["errorAt"]!.GetValue<int>());
        JsonNode done = await Body(await engineer.Post("/api/schedules/courses/phrase", new { text = "wed 18-20 course", apply = true }));
        Assert.True(done["applied"]!.GetValue<bool>());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task Find_or_do_answers_over_everything()
    {
        Client viewer = await server.As("viewer");
        Assert.Equal("kiln-fan", (await viewer.Read("/api/find?q=fan%20extract%20kiln"))[0]!["id"]!.GetValue<string>());
        Assert.Empty((await viewer.Read("/api/find?q=")).AsArray());
        Assert.Empty((await viewer.Read($"/api/find?q={new string('x', 5000)}")).AsArray());
    }

    [Fact]
    public async Task The_site_clock_pauses_steps_and_knows_its_speeds()
    {
        Client technician = await server.As("technician");
        long before = (await technician.Read("/api/site"))["now"]!.GetValue<long>();
        JsonNode stepped = await Body(await technician.Post("/api/site/clock", new { stepSeconds = 1 }));
        Assert.Equal((before + 1000, false), (stepped["now"]!.GetValue<long>(), stepped["running"]!.GetValue<bool>()));
        Assert.Contains("runs at 1×, 60×, 600×, 3600×", await Client.Detail(await technician.Post("/api/site/clock", new { speed = 7 })));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await technician.Post("/api/site/clock", new { stepSeconds = 99_999_999 })).StatusCode);
    }

    [Fact]
    public async Task A_finding_is_mended_at_one_click()
    {
        Client engineer = await server.As("engineer");
        await engineer.Change(Edit.Removing(new("fit-hp-sp")));
        JsonNode finding = (await engineer.Read("/api/findings"))["findings"]!.AsArray().Single(f => f!["code"]!.GetValue<string>() == "no-source" && f["recordId"]!.GetValue<string>() == "hp-sp")!;
        JsonNode done = await Body(await engineer.Post("/api/findings/fix", new { key = finding["key"]!.GetValue<string>(), recordId = "hp-sp" }));
        Assert.Equal("Put ‘Flow setpoint’ into the memory of KH-C2", done["label"]!.GetValue<string>());
        Assert.Contains("is gone", await Client.Detail(await engineer.Post("/api/findings/fix", new { key = finding["key"]!.GetValue<string>(), recordId = "hp-sp" })));
        Assert.NotNull(server.Get<Workspace>().Project.Find<Point>(new("hp-sp")));
    }

    [Fact]
    public async Task Floors_come_building_by_building_from_the_top_with_their_rooms_counted()
    {
        JsonArray floors = (await (await server.As("viewer")).Read("/api/floors")).AsArray();
        // The demo: Kiln House with roof, first, ground and basement; the barn with a loft; the yard.
        Assert.Equal(["Roof", "First floor", "Ground floor", "Basement"], floors.Where(f => f!["building"]!.GetValue<string>() == "Kiln House").Select(f => f!["name"]!.GetValue<string>()));
        Project project = server.Get<Workspace>().Project;
        Assert.Equal(project.All<Place>().Count(p => p.Kind == PlaceKind.Room), floors.Sum(f => f!["rooms"]!.GetValue<int>()));
        Assert.Equal(project.All<Place>().Count(p => p.Kind == PlaceKind.Floor), floors.Count);
    }

    [Fact]
    public async Task The_site_bars_summary_is_the_sum_of_the_list()
    {
        Client viewer = await server.As("viewer");
        JsonArray all = (await viewer.Read("/api/commission")).AsArray();
        JsonNode summary = await viewer.Read("/api/commission/ahead");
        var ahead = all.Where(a => a!["changes"]!.GetValue<int>() > 0).ToList();
        Assert.Equal((all.Count, ahead.Count, ahead.Sum(a => a!["changes"]!.GetValue<int>())), (summary["controllers"]!.GetValue<int>(), summary["ahead"]!.GetValue<int>(), summary["changes"]!.GetValue<int>()));
        Assert.Equal(ahead.Take(3).Select(a => a!["name"]!.GetValue<string>()), summary["names"]!.AsArray().Select(n => n!.GetValue<string>()));
        Assert.All(all, a => Assert.Contains(a!["path"]!.GetValue<string>().Split(" › ")[0], new[] { "Kiln House", "Barn", "Yard" }));
    }

    [Fact]
    public async Task A_panel_lists_the_points_of_its_own_room_first_and_finds_the_others_by_words()
    {
        Client engineer = await server.As("engineer");
        // Two new sensors: one in the panel's own room, one on another floor of the same building; both without a source.
        await engineer.Change(Edit.Of(new Point { Id = new("near-one"), Name = "Zone humidity", OwnerId = new("kh-1-landing"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "%RH" }),
            Edit.Of(new Point { Id = new("far-one"), Name = "Attic humidity", OwnerId = new("kh-r-plant-deck"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "%RH" }));
        JsonNode panel = await engineer.Read("/api/controllers/kh-c1/panel");
        string[] names = [.. panel["unplaced"]!.AsArray().Select(r => r!["point"]!["name"]!.GetValue<string>())];
        Assert.Equal("Zone humidity", names[0]);
        Assert.Contains("Attic humidity", names);
        Assert.False(panel["moreUnplaced"]!.GetValue<bool>());
        JsonNode found = await engineer.Read("/api/controllers/kh-c1/panel?words=humidity%20roof");
        Assert.Equal(["Attic humidity"], found["unplaced"]!.AsArray().Select(r => r!["point"]!["name"]!.GetValue<string>()));
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_mend_that_has_become_another_is_not_done_under_its_old_name()
    {
        Client engineer = await server.As("engineer");
        await engineer.Change(Edit.Of(new Point { Id = new("bare"), Name = "Bare command", OwnerId = new("kh-1-landing"), Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"] }));
        HttpResponseMessage other = await engineer.Post("/api/findings/fix", new { key = "no-fallback|bare", recordId = "bare", which = 0, label = "Set the fallback of ‘Bare command’ to closed" });
        Assert.Equal("The project has changed since you looked. The mend would now be: Set the fallback of ‘Bare command’ to off. Look again and choose.", await Client.Detail(other));
        Assert.Null(server.Get<Workspace>().Project.Find<Point>(new("bare"))!.Fallback);
        (await engineer.Post("/api/findings/fix", new { key = "no-fallback|bare", recordId = "bare", which = 0, label = "Set the fallback of ‘Bare command’ to off" })).EnsureSuccessStatusCode();
        Assert.Equal(0, server.Get<Workspace>().Project.Find<Point>(new("bare"))!.Fallback);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_controllers_dossier_names_terminals_and_whose_points_they_carry()
    {
        JsonNode dossier = await (await server.As("viewer")).Read("/api/records/kh-c1");
        string[] names = [.. dossier["usedBy"]!.AsArray().Where(u => u!["noun"]!.GetValue<string>() == "terminal").Select(u => u!["name"]!.GetValue<string>())];
        Assert.Contains("UI1 · Kiln room · Room temperature", names);
        Assert.Equal(names.Length, names.Distinct().Count());
    }
}
