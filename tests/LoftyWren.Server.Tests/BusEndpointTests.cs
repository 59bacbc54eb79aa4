using System.Text.Json.Nodes;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>Bus devices over HTTP: parameters, copying, joining, stories.</summary>
public class BusEndpointTests(DemoServer server) : IClassFixture<DemoServer>
{
    private Workspace Workspace => server.Get<Workspace>();

    private static async Task<JsonNode> Read(HttpResponseMessage answer)
    {
        string text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, text);
        return JsonNode.Parse(text)!;
    }

    private static async Task<string> Add(Client engineer, string description, string name, int count = 1)
    {
        JsonNode made = await Read(await engineer.Post("/api/bus/devices", new { descriptionId = description, placeId = "kh-1-glaze-store", lineId = "line-1-1", name, count }));
        return made["ids"]![0]!.GetValue<string>();
    }

    [Fact]
    public async Task Parameters_are_found_set_hidden_and_taken_back()
    {
        Client engineer = await server.As("engineer");
        string id = await Add(engineer, "switch-12", "Twelve");
        JsonNode hidden = (await Read(await engineer.Post($"/api/bus/devices/{id}/parameters", new { channel = "output3", words = "cycle", differing = false, hidden = true }))).AsArray().Single(p => p!["key"]!.GetValue<string>() == "cycle")!;
        Assert.False(hidden["isThere"]!.GetValue<bool>());
        Assert.StartsWith("‘Cycle’ is there when ‘Function’ is ‘Thermal valve drive’", hidden["hidden"]!.GetValue<string>(), StringComparison.Ordinal);
        await Read(await engineer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output3.function", text = "Thermal valve drive" }, new { path = "output3.cycle", text = "20 min" } } }));
        BusDevice device = Workspace.Project.Find<BusDevice>(new RecordId(id))!;
        Assert.Equal(["output3.cycle 1200", "output3.function valve"], device.Settings.Select(s => $"{s.Path} {s.Value}"));
        Assert.Contains("‘Cycle’ is from 1 min to 2 h", await Client.Detail(await engineer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output3.cycle", text = "3 h" } } })), StringComparison.Ordinal);
        Assert.Equal(2, (await Read(await engineer.Post($"/api/bus/devices/{id}/parameters", new { differing = true, hidden = false }))).AsArray().Count);
        // What is set to how it begins is set no more.
        await Read(await engineer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output3.function", text = (string?)null } } }));
        Assert.Equal(["output3.cycle"], Workspace.Project.Find<BusDevice>(new RecordId(id))!.Settings.Select(s => s.Path));
        await Read(await engineer.Post("/api/undo", new { }));
        Assert.Equal(2, Workspace.Project.Find<BusDevice>(new RecordId(id))!.Settings.Count);
        Client viewer = await server.As("viewer");
        Assert.Equal(System.Net.HttpStatusCode.Forbidden, (await viewer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output3.cycle", text = "1 h" } } })).StatusCode);
    }

    [Fact]
    public async Task Addresses_are_moved_by_a_pattern_with_what_follows_and_never_onto_others()
    {
        Client engineer = await server.As("engineer");
        string[] ids = ["ga-store-light-switch", "ga-store-light-state"];
        JsonNode shown = await Read(await engineer.Post("/api/bus/groups/shift", new { ids, pattern = "9/*/+3", apply = false }));
        Assert.Equal(["1/0/0 → 9/0/3", "1/1/0 → 9/1/3"], shown["lines"]!.AsArray().Select(l => $"{l!["was"]} → {l["now"]}"));
        Assert.Contains("Dimming actuator 1", shown["devices"]!.AsArray().Select(d => d!.GetValue<string>()));
        Assert.Equal(["KH-C6"], shown["controllers"]!.AsArray().Select(d => d!.GetValue<string>()));
        Assert.Contains("is that of ‘Track lights 1 · switch’", await Client.Detail(await engineer.Post("/api/bus/groups/shift", new { ids, pattern = "*/*/+1", apply = true })), StringComparison.Ordinal);
        Assert.Contains("three levels", await Client.Detail(await engineer.Post("/api/bus/groups/shift", new { ids, pattern = "9", apply = true })), StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/groups/shift", new { ids, pattern = "9/*/+3", apply = true }));
        Assert.Equal("9/0/3", Workspace.Project.Find<Core.Bus.Groups.GroupAddress>(new RecordId("ga-store-light-switch"))!.Number.ToString());
        await Read(await engineer.Post("/api/undo", new { }));
        Assert.Equal("1/0/0", Workspace.Project.Find<Core.Bus.Groups.GroupAddress>(new RecordId("ga-store-light-switch"))!.Number.ToString());
    }

    [Fact]
    public async Task A_room_is_seen_as_a_matrix_of_objects_points_and_addresses()
    {
        Client viewer = await server.As("viewer");
        JsonNode matrix = await viewer.Read("/api/bus/matrix/kh-g-shop");
        int lights = matrix["addresses"]!.AsArray().Select((a, i) => (a!["name"]!.GetValue<string>(), i)).Single(a => a.Item1 == "Shop lights · switch").i;
        IEnumerable<string> Under(int column) => matrix["rows"]!.AsArray().Where(r => r!["marks"]!.AsArray().Any(m => m!["column"]!.GetValue<int>() == column)).Select(r => r!["marks"]!.AsArray().Single(m => m!["column"]!.GetValue<int>() == column) is { } m ? $"{r["device"]}{((bool)m["says"]! ? " says" : "")}{((bool)m["hears"]! ? " hears" : "")}" : "");
        Assert.Contains("Gallery dimmer 2 hears", Under(lights));
        Assert.Contains("KH-C4 says", Under(lights));
        Assert.Contains(Under(lights), u => u.StartsWith("Shop buttons says", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Timed_runs_of_a_blind_become_its_times()
    {
        Client engineer = await server.As("engineer");
        var runs = new object[] { new { isDown = true, seconds = 26.1 }, new { isDown = false, seconds = 28.0 }, new { isDown = true, seconds = 25.9 }, new { isDown = false, seconds = 28.2 }, new { isDown = true, seconds = 26.0 }, new { isDown = false, seconds = 28.1 } };
        JsonNode measure = await Read(await engineer.Post("/api/bus/devices/bus-gal-blinds-1/travel", new { channel = "blind2", runs, apply = true }));
        Assert.Equal((26.0, 28.1, true), ((double)measure["down"]!, (double)measure["up"]!, (bool)measure["isTrusted"]!));
        Assert.Contains(Workspace.Project.Find<BusDevice>(new RecordId("bus-gal-blinds-1"))!.Settings, s => s is { Path: "blind2.upTime", Value: "28.1" });
        Assert.Contains("has no blind", await Client.Detail(await engineer.Post("/api/bus/devices/bus-gal-dim-1/travel", new { channel = "output1", runs, apply = false })), StringComparison.Ordinal);
        await Read(await engineer.Post("/api/undo", new { }));
    }

    [Fact]
    public async Task A_channel_is_copied_to_others_and_to_other_devices_after_its_differences_were_shown()
    {
        Client engineer = await server.As("engineer");
        string id = await Add(engineer, "switch-4", "Copied"), other = await Add(engineer, "switch-4", "Copied onto");
        await Read(await engineer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output1.function", text = "staircase" }, new { path = "output1.staircase", text = "90" } } }));
        var copy = new { from = "output1", toChannels = new[] { "output2", "output3" }, toDevices = Array.Empty<string>(), apply = false };
        JsonArray shown = (await Read(await engineer.Post($"/api/bus/devices/{id}/copy", copy))).AsArray();
        Assert.Equal(["Output B Function: Switching → Staircase", "Output B Staircase time: 3 min → 90 s", "Output C Function: Switching → Staircase", "Output C Staircase time: 3 min → 90 s"], shown.Select(d => $"{d!["channel"]} {d["label"]}: {d["was"]} → {d["now"]}"));
        Assert.Equal(2, Workspace.Project.Find<BusDevice>(new RecordId(id))!.Settings.Count);
        await Read(await engineer.Post($"/api/bus/devices/{id}/copy", copy with { apply = true }));
        Assert.Equal(6, Workspace.Project.Find<BusDevice>(new RecordId(id))!.Settings.Count);
        await Read(await engineer.Post($"/api/bus/devices/{id}/copy", new { from = "", toChannels = Array.Empty<string>(), toDevices = new[] { other }, apply = true }));
        Assert.Equal(Workspace.Project.Find<BusDevice>(new RecordId(id))!.Settings, Workspace.Project.Find<BusDevice>(new RecordId(other))!.Settings);
    }

    // The gallery's fan-coil expects its demand every hour: a third of that are 20 min. A light waits for nobody.
    [Fact]
    public async Task A_bound_command_is_said_again_as_often_as_somebody_waits_for_it()
    {
        Client engineer = await server.As("engineer");
        int Again(string point) => ((BusBinding)Workspace.Project.BindingOf(new RecordId(point))!).AgainMinutes;
        async Task Bind(string group, string point, int? minutes = null) => await Read(await engineer.Post("/api/bus/bind", new { groupId = group, pointId = point, againMinutes = minutes }));
        await Bind("ga-3-5-0", "gal-valve");
        await Bind("ga-1-0-1", "gal-track-1");
        Assert.Equal((20, 0), (Again("gal-valve"), Again("gal-track-1")));
        await Bind("ga-3-5-0", "gal-valve", 0);
        Assert.Equal(0, Again("gal-valve"));
        await Bind("ga-3-5-0", "gal-valve", 7);
        Assert.Equal(7, Again("gal-valve"));
        Assert.Contains("1 to 1440 minutes, or 0 for never, not after -1", await Client.Detail(await engineer.Post("/api/bus/bind", new { groupId = "ga-3-5-0", pointId = "gal-valve", againMinutes = -1 })), StringComparison.Ordinal);
        HttpResponseMessage half = await engineer.Post("/api/bus/bind", new { groupId = "ga-3-5-0", pointId = "gal-valve", againMinutes = 7.5 });
        Assert.Equal(400, (int)half.StatusCode);
        Assert.Contains("againMinutes", await Client.Detail(half), StringComparison.OrdinalIgnoreCase);
        Assert.Equal(7, Again("gal-valve"));
        for (int i = 0; i < 4; i++) await Read(await engineer.Post("/api/undo", new { }));
        Assert.Equal(20, Again("gal-valve"));
    }

    [Fact]
    public async Task Many_channels_stand_in_a_table_and_are_set_in_one_change()
    {
        Client engineer = await server.As("engineer");
        string one = await Add(engineer, "switch-12", "Row one"), two = await Add(engineer, "switch-12", "Row two");
        var rows = new[] { new { deviceId = one, channel = "output1" }, new { deviceId = one, channel = "output12" }, new { deviceId = two, channel = "output5" } };
        long revision = Workspace.Project.Revision;
        await Read(await engineer.Post("/api/bus/table/set", new { key = "leastOn", text = "2 min", rows }));
        Assert.Equal(revision + 1, Workspace.Project.Revision);
        JsonNode table = await Read(await engineer.Post("/api/bus/table", new { descriptionId = "switch-12", sort = "output", words = "least time on" }));
        int at = table["columns"]!.AsArray().ToList().FindIndex(c => c!["label"]!.GetValue<string>() == "Least time on");
        Assert.True(at >= 0);
        Assert.Equal(["Row one Output A", "Row one Output L", "Row two Output E"], table["rows"]!.AsArray().Where(r => r!["cells"]![at]!["said"]!.GetValue<string>() == "2 min").Select(r => $"{r!["device"]} {r["name"]}").Order());
        // Rows are found by words of a device, a channel and what is set, wherever they stand.
        table = await Read(await engineer.Post("/api/bus/table", new { descriptionId = "switch-12", sort = "output", words = "least time on", rows = "row 2 min output" }));
        Assert.Equal(["Row one Output A", "Row one Output L", "Row two Output E"], table["rows"]!.AsArray().Select(r => $"{r!["device"]} {r["name"]}").Order());
        Assert.Equal(3, (int)table["all"]!);
        Assert.Contains("‘Least time on’ is from 0 s to 1 h", await Client.Detail(await engineer.Post("/api/bus/table/set", new { key = "leastOn", text = "2 h", rows })), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Addresses_are_given_one_after_the_other_and_shown_first()
    {
        Client engineer = await server.As("engineer");
        JsonNode made = await Read(await engineer.Post("/api/bus/devices", new { descriptionId = "button-4", placeId = "kh-1-glaze-store", lineId = (string?)null, name = "Buttons", count = 3 }));
        string[] ids = [.. made["ids"]!.AsArray().Select(i => i!.GetValue<string>())];
        // 1.1.10 is the presence detector's.
        JsonArray shown = (await Read(await engineer.Post("/api/bus/addresses", new { ids, lineId = "line-1-1", from = 200 }))).AsArray();
        Assert.Equal(["1.1.200", "1.1.201", "1.1.202"], shown.Select(p => p!["now"]!.GetValue<string>()));
        Assert.Equal(["1.1.9", "1.1.11", "1.1.12"], (await Read(await engineer.Post("/api/bus/addresses", new { ids, lineId = "line-1-1", from = 9, apply = true }))).AsArray().Select(p => p!["now"]!.GetValue<string>()));
        Assert.Contains("no number left", await Client.Detail(await engineer.Post("/api/bus/addresses", new { ids, lineId = "line-1-1", from = 254 })), StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_demos_story_comes_out_as_it_must_and_another_setting_is_laid_over()
    {
        Client viewer = await server.As("viewer");
        JsonNode story = (await Read(await viewer.Get("/api/bus/stories/bus-store-presence")))[0]!["story"]!;
        var tell = new JsonObject { ["ownerId"] = "bus-store-presence", ["seconds"] = 900, ["events"] = story["events"]!.DeepClone(), ["expectations"] = story["expectations"]!.DeepClone(), ["over"] = new JsonArray(new JsonObject { ["path"] = "output2.windows", ["text"] = "3" }) };
        JsonNode told = await Read(await viewer.Post("/api/bus/stories/tell", tell));
        Assert.All(told["run"]!["verdicts"]!.AsArray(), v => Assert.True(v!["passed"]!.GetValue<bool>(), v["said"]!.GetValue<string>()));
        Assert.Equal(7, told["run"]!["verdicts"]!.AsArray().Count);
        // Three windows in a row: the fan does not come, which one expectation notices.
        Assert.Equal(2, told["over"]!["verdicts"]!.AsArray().Count(v => !v!["passed"]!.GetValue<bool>()));
        tell["over"] = new JsonArray(new JsonObject { ["path"] = "output2.windows", ["text"] = "many" });
        Assert.Contains("‘many’", await Client.Detail(await viewer.Post("/api/bus/stories/tell", tell)), StringComparison.Ordinal);
        tell["over"] = null;
        tell["seconds"] = 1e9;
        Assert.Contains("31 days", await Client.Detail(await viewer.Post("/api/bus/stories/tell", tell)), StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_object_is_joined_by_hand_and_a_wrong_address_is_told()
    {
        Client engineer = await server.As("engineer");
        string id = await Add(engineer, "switch-4", "By hand");
        await Read(await engineer.Post($"/api/bus/devices/{id}/joins", new { @object = "output1.switch", groups = new[] { "7/0/1", "Store light · switch" }, make = true }));
        Assert.Equal(2, Workspace.Project.Find<BusDevice>(new RecordId(id))!.GroupsOf("output1.switch").Count);
        Assert.Contains("There is no group address 7/0/2", await Client.Detail(await engineer.Post($"/api/bus/devices/{id}/joins", new { @object = "output1.switch", groups = new[] { "7/0/2" }, make = false })), StringComparison.Ordinal);
        Assert.Contains("neither a group address (1/2/34) nor the name of one", await Client.Detail(await engineer.Post($"/api/bus/devices/{id}/joins", new { @object = "output1.switch", groups = new[] { "sideways" }, make = true })), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("room1", "sideways")]
    [InlineData("room1", "")]
    [InlineData("function1", "heating")]
    [InlineData("", "heating")]
    public async Task A_side_that_a_channel_has_not_is_refused(string channel, string side)
    {
        Client engineer = await server.As("engineer");
        HttpResponseMessage answer = await engineer.Post("/api/bus/devices/bus-gal-coil/copy", new { from = channel, toChannels = new[] { channel }, toDevices = Array.Empty<string>(), apply = true, side });
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, answer.StatusCode);
        Assert.Contains($"settings for ‘{side}’", await Client.Detail(answer), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Several_objects_are_joined_in_one_change_or_none_is()
    {
        Client engineer = await server.As("engineer");
        string id = await Add(engineer, "switch-4", "Pasted");
        long before = Workspace.Project.Revision;
        object joins(string second) => new { joins = new object[] { new { @object = "output1.switch", groups = new[] { "7/1/1" } }, new { @object = second, groups = new[] { "7/1/1", "7/1/2" } } }, make = true };
        Assert.Contains("no object ‘output9.state’", await Client.Detail(await engineer.Post($"/api/bus/devices/{id}/joins/several", joins("output9.state"))), StringComparison.Ordinal);
        Assert.Equal(before, Workspace.Project.Revision);
        await Read(await engineer.Post($"/api/bus/devices/{id}/joins/several", joins("output2.switch")));
        Assert.Equal(before + 1, Workspace.Project.Revision);
        BusDevice device = Workspace.Project.Find<BusDevice>(new RecordId(id))!;
        // What both say is one new address.
        Assert.Equal(device.GroupsOf("output1.switch")[0], device.GroupsOf("output2.switch")[0]);
        Assert.Equal(2, device.GroupsOf("output2.switch").Count);
    }

    [Fact]
    public async Task Rooms_are_furnished_like_another_over_the_interface_and_only_by_engineers()
    {
        Client engineer = await server.As("engineer"), viewer = await server.As("viewer");
        object like(string? room, bool apply, params string[] rooms) => new { roomId = room, rooms, apply };
        Assert.Equal(System.Net.HttpStatusCode.Forbidden, (await viewer.Post("/api/bus/furnish", like("bn-g-clay-store", false, "bn-l-loft-store"))).StatusCode);
        Assert.Contains("Choose the room or the template", await Client.Detail(await engineer.Post("/api/bus/furnish", like(null, false, "bn-l-loft-store"))), StringComparison.Ordinal);
        string clay = Workspace.Project.All<Conversation>().Single(c => c.Name == "Clay store light").PlaceId.Value;
        string store = Workspace.Project.All<Core.Places.Place>().Single(r => r.Name == "Loft store").Id.Value;
        long before = Workspace.Project.Revision;
        JsonNode plan = await Read(await engineer.Post("/api/bus/furnish", like(clay, false, store)));
        Assert.Equal(before, Workspace.Project.Revision);
        Assert.Equal(["Presence detector", "Door buttons"], plan["rooms"]![0]!["made"]!.AsArray().Select(m => m!.GetValue<string>()).OrderByDescending(m => m));
        await Read(await engineer.Post("/api/bus/furnish", like(clay, true, store)));
        Assert.Equal(before + 1, Workspace.Project.Revision);
        Assert.Contains(Workspace.Project.All<Conversation>(), c => c.Name == "Loft store light");
        Assert.Equal(0, (await Read(await engineer.Post("/api/bus/furnish", like(clay, false, store))))["edits"]!.GetValue<int>());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
    }

    // The store's story passes; with another number of windows it is stale, then fails; set back it is stale no more than it was passed on.
    [Fact]
    public async Task Stories_are_told_again_beside_the_tests_and_go_stale_with_their_devices()
    {
        Client engineer = await server.As("engineer");
        string story = Workspace.Project.All<Core.Bus.Stories.Story>().Single(s => s.Id == new RecordId("story-store-rule")).Id.Value;
        async Task<JsonNode> line() => (await engineer.Read("/api/proofs")).AsArray().Single(l => l!["id"]!.GetValue<string>() == story)!;
        async Task tell() => Assert.Equal(Jobs.JobState.Done, (await server.Get<Jobs.JobRunner>().Finish((await Read(await engineer.Post("/api/proofs", new { sequences = new[] { story }, onlyChanged = false })))["id"]!.GetValue<string>())).State);
        await tell();
        Assert.Equal(1, (await line())["passed"]!.GetValue<int>());
        await Read(await engineer.Post("/api/bus/devices/bus-store-presence/settings", new { settings = new[] { new { path = "output2.windows", text = "3" } } }));
        Assert.Equal(1, (await line())["stale"]!.GetValue<int>());
        await tell();
        Assert.Equal(1, (await line())["failed"]!.GetValue<int>());
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal(1, (await line())["stale"]!.GetValue<int>());
        await tell();
        Assert.Equal(1, (await line())["passed"]!.GetValue<int>());
    }

    [Fact]
    public async Task A_description_of_ones_own_is_read_with_its_errors_by_line()
    {
        Client engineer = await server.As("engineer");
        const string good = "{ \"format\": \"lofty-wren-bus-devices-1\", \"devices\": [\n { \"id\": \"own-2\", \"name\": \"Own, 2-fold\", \"revision\": 1, \"widthMillimetres\": 36, \"busMilliamps\": 6,\n  \"channels\": [{ \"key\": \"output\", \"title\": \"Output {n}\", \"count\": 2, \"behaviour\": \"switching\", \"pages\": [{ \"key\": \"f\", \"title\": \"Function\", \"parameters\": [\"function\"] }], \"firstObject\": 1, \"objectStep\": 5, \"objects\": [{ \"key\": \"switch\", \"number\": 0 }, { \"key\": \"state\", \"number\": 1 }] }] } ] }";
        JsonNode wrong = await Read(await engineer.Http.PostAsync("/api/bus/descriptions", new StringContent(good.Replace("\"switching\"", "\"flying\"", StringComparison.Ordinal))));
        Assert.Equal(3, wrong["errors"]![0]!["line"]!.GetValue<int>());
        Assert.True((await Read(await engineer.Http.PostAsync("/api/bus/descriptions?take=true", new StringContent(good))))["isTaken"]!.GetValue<bool>());
        string id = await Add(engineer, "own-2", "Own");
        Assert.Equal(2, (await Read(await engineer.Get($"/api/bus/devices/{id}")))["channels"]!.AsArray().Count);
        Assert.Contains("lofty-wren-bus-devices-1", await (await engineer.Get("/api/schemas/bus-devices.json")).Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }
}
