using System.Text.Json.Nodes;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Records;
using LoftyWren.Server.Bus.Work;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>Bus devices put to work over the interface of a line of the virtual site: from a box to a device that does what is designed.</summary>
public class BusWorkTests(DemoServer server) : IClassFixture<DemoServer>
{
    private Workspace Workspace => server.Get<Workspace>();

    private static async Task<JsonNode> Read(HttpResponseMessage answer)
    {
        string text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, text);
        return text.Length == 0 ? JsonValue.Create("") : JsonNode.Parse(text)!;
    }

    private async Task<Client> Engineer()
    {
        server.Get<SiteHost>().SetClock("engineer", true, 60, null);
        return await server.As("engineer");
    }

    private static async Task<string> Add(Client engineer, string description, string name)
    {
        JsonNode made = await Read(await engineer.Post("/api/bus/devices", new { descriptionId = description, placeId = "kh-1-glaze-store", lineId = "line-1-1", name, count = 1 }));
        return made["ids"]![0]!.GetValue<string>();
    }

    private static async Task<string> Refused(Client client, string path, object body)
    {
        HttpResponseMessage answer = await client.Post(path, body);
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, answer.StatusCode);
        return await Client.Detail(answer);
    }

    private async Task<JobView> Work(Client client, string what, object body)
    {
        JsonNode job = await Read(await client.Post($"/api/bus/work/{what}", body));
        return await server.Get<JobRunner>().Finish(job["id"]!.GetValue<string>());
    }

    private static async Task<JsonNode> Row(Client client, string id) => (await client.Read("/api/bus/work"))["rows"]!.AsArray().Single(r => r!["id"]!.GetValue<string>() == id)!;

    [Fact]
    public async Task From_its_box_to_work_by_its_button_and_again_by_its_label()
    {
        Client engineer = await Engineer();
        string id = await Add(engineer, "switch-12", "Taken from its box");
        Assert.Null((await Row(engineer, id))["onSite"]);
        await Read(await engineer.Post("/api/bus/work/hang", new { ids = new[] { id } }));
        JsonNode row = await Row(engineer, id);
        string label = row["onSite"]!["serial"]!.GetValue<string>();
        Assert.Null(BusSerial.Trouble(label));
        // It hangs and has no address: by its address nobody answers.
        Assert.Equal((JobState.Done, "0 of 1 answer."), (await Work(engineer, "look", new { ids = new[] { id } })) is var silent ? (silent.State, silent.Message) : default);
        Assert.Equal("silent", (await Row(engineer, id))["state"]!.GetValue<string>());
        // Its label is not known yet: it says so. The button makes it known.
        Assert.Contains("label of ‘Taken from its box’ is not known", (await Work(engineer, "addresses", new { ids = new[] { id }, by = "label" })).Message, StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/work/act", new { id, @do = "press" }));
        Assert.True((await Row(engineer, id))["onSite"]!["isWaiting"]!.GetValue<bool>());
        JobView pressed = await Work(engineer, "addresses", new { ids = new[] { id }, by = "button" });
        Assert.Equal(JobState.Done, pressed.State);
        Assert.Equal(label, Workspace.Project.Find<BusDevice>(new RecordId(id))!.Serial);
        // Written, looked at, as designed; then the design goes ahead and only that is written.
        Assert.Equal("notConfigured", (await Row(engineer, id))["state"]!.GetValue<string>());
        await Read(await engineer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output3.function", text = "staircase" }, new { path = "output3.staircase", text = "40" } } }));
        JobView written = await Work(engineer, "send", new { ids = new[] { id } });
        Assert.Equal((JobState.Done, true), (written.State, written.Message.StartsWith("Taken from its box has what is designed", StringComparison.Ordinal)));
        Assert.Equal("same", (await Row(engineer, id))["state"]!.GetValue<string>());
        await Read(await engineer.Post($"/api/bus/devices/{id}/settings", new { settings = new[] { new { path = "output3.staircase", text = "50" } } }));
        row = await Row(engineer, id);
        Assert.Equal(("differs", true), (row["state"]!.GetValue<string>(), row["differenceSeconds"]!.GetValue<double>() <= row["fullSeconds"]!.GetValue<double>()));
        JsonNode compared = await Read(await engineer.Post($"/api/bus/work/{id}/compare"));
        await server.Get<JobRunner>().Finish(compared["id"]!.GetValue<string>());
        JsonNode difference = (await engineer.Read($"/api/bus/work/{id}/compare"))["differences"]!.AsArray().Single()!;
        Assert.Equal("Output C · Staircase time designed 50 s there 40 s", $"{difference["label"]} designed {difference["designed"]} there {difference["there"]}");
        Assert.EndsWith("in 4 telegrams.", (await Work(engineer, "send", new { ids = new[] { id } })).Message, StringComparison.Ordinal);
        Assert.Equal("It has what is designed already; nothing was written.", (await Work(engineer, "send", new { ids = new[] { id } })).Message);
        // Another hangs in its place; it has another label, and is not taken for it.
        await Read(await engineer.Post("/api/bus/work/take-down", new { ids = new[] { id } }));
        Assert.Contains("does not answer", (await Work(engineer, "send", new { ids = new[] { id } })).Message, StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/work/hang", new { ids = new[] { id } }));
        Assert.Equal(JobState.Done, (await Work(engineer, "addresses", new { ids = new[] { id }, by = "label" })).State);
        // The trail tells who did what.
        Assert.Contains((await engineer.Read("/api/trail")).AsArray(), t => t!["what"]!.GetValue<string>().StartsWith("Gave ‘Taken from its box’ the address", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_channel_is_tried_and_what_is_on_the_line_is_heard_said_and_said_again()
    {
        Client engineer = await Engineer();
        await Read(await engineer.Post("/api/bus/monitor/line-1-1?on=true"));
        JsonNode tried = await Read(await engineer.Post("/api/bus/try/bus-switch-1", new { channel = "output3", value = 1 }));
        Assert.Equal(1, tried["channels"]!.AsArray().Single(c => c!["key"]!.GetValue<string>() == "output3")!["now"]!.GetValue<double>());
        Assert.Contains((await Row(engineer, "bus-switch-1"))["onSite"]!["loads"]!.AsArray(), l => l!["channel"]!.GetValue<string>() == "output3" && l["says"]!.GetValue<string>() == "on");
        Assert.Contains("driven from 0 to 1", await Client.Detail(await engineer.Post("/api/bus/try/bus-switch-1", new { channel = "output3", value = 7 })), StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/try/bus-switch-1", new { channel = "output3" }));
        // Whatever it is now, told off and then on it answers with its state, which the interface hears.
        JsonNode heard = JsonValue.Create("");
        foreach (string value in (string[])["off", "on"])
        {
            await Read(await engineer.Post("/api/bus/monitor/line-1-1/say", new { group = "Store extract · switch", value }));
            bool isHeard = false;
            for (int i = 0; i < 50 && !isHeard; i++)
            {
                await Task.Delay(100);
                heard = await engineer.Read("/api/bus/monitor/line-1-1?words=store%20extract%20says");
                isHeard = heard["telegrams"]!.AsArray().Any(t => t!["fromName"]?.GetValue<string>() == "Switching actuator 1" && t["to"]!.GetValue<string>() == "4/1/0" && t["says"]!.GetValue<string>() == value);
            }
            Assert.True(isHeard, $"{value}: {heard.ToJsonString()}");
        }
        Assert.Contains("no group address", await Client.Detail(await engineer.Post("/api/bus/monitor/line-1-1/say", new { group = "9/7/7", value = "on" })), StringComparison.Ordinal);
        Assert.Contains("warm", await Client.Detail(await engineer.Post("/api/bus/monitor/line-1-1/say", new { group = "4/0/0", value = "warm" })), StringComparison.Ordinal);
        long last = heard["heard"]!.GetValue<long>();
        JsonNode again = await Read(await engineer.Post("/api/bus/monitor/line-1-1/replay", new { from = 1, until = last }));
        Assert.Equal(JobState.Done, (await server.Get<JobRunner>().Finish(again["id"]!.GetValue<string>())).State);
        string csv = await (await engineer.Get("/api/bus/monitor/line-1-1/record.csv")).Content.ReadAsStringAsync();
        Assert.Contains("\"Store extract · state\",says,\"on\"", csv, StringComparison.Ordinal);
        Client viewer = await server.As("viewer");
        Assert.Equal(System.Net.HttpStatusCode.Forbidden, (await viewer.Post("/api/bus/try/bus-switch-1", new { channel = "output3", value = 1 })).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.Forbidden, (await viewer.Post("/api/bus/monitor/line-1-1/say", new { group = "4/0/0", value = "on" })).StatusCode);
    }

    [Fact]
    public async Task A_line_without_its_supply_says_so_and_goes_on_when_it_is_back()
    {
        Client engineer = await Engineer();
        await Read(await engineer.Post("/api/bus/work/act", new { id = "bus-supply-1-1", @do = "takeMains" }));
        Assert.False((await Row(engineer, "bus-dim-1"))["onSite"]!["hasBus"]!.GetValue<bool>());
        JobView dark = await Work(engineer, "look", new { ids = new[] { "bus-dim-1" } });
        Assert.True(dark.State == JobState.Failed || dark.Message == "0 of 1 answer.", dark.Message);
        await Read(await engineer.Post("/api/bus/work/act", new { id = "bus-supply-1-1", @do = "giveMains" }));
        Assert.Equal("All 1 answer.", (await Work(engineer, "look", new { ids = new[] { "bus-dim-1" } })).Message);
        JsonNode health = (await Row(engineer, "bus-dim-1"))["health"]!;
        Assert.True(health["failures"]!.GetValue<int>() >= 1);
        string csv = await (await engineer.Get("/api/bus/work/health.csv")).Content.ReadAsStringAsync();
        Assert.Contains("1.1.2,\"Dimming actuator 1\"", csv, StringComparison.Ordinal);
    }

    // The certificate is read off the sticker that the virtual site prints; nothing that is kept or told anywhere holds either key.
    [Fact]
    public async Task A_secured_device_needs_its_certificate_and_the_passphrase_and_its_keys_stand_nowhere()
    {
        BusKeys.Rounds = 1000;
        Client engineer = await Engineer();
        string id = await Add(engineer, "switch-12", "Secured at work");
        await Read(await engineer.Post("/api/bus/work/hang", new { ids = new[] { id } }));
        JsonNode sticker = await engineer.Read($"/api/bus/work/{id}/sticker");
        string label = sticker["label"]!.GetValue<string>(), certificate = sticker["certificate"]!.GetValue<string>();
        await Read(await engineer.Post($"/api/bus/work/{id}/label", new { label }));
        // Designed to be secured without a certificate: nothing is written.
        BusDevice device = Workspace.Project.Find<BusDevice>(new RecordId(id))!;
        Assert.True(Workspace.Apply([Core.Projects.Edit.Of(device with { IsSecured = true }, Workspace.Project.FindEntry(device.Id)!.Revision)], "engineer", "Secured").Accepted);
        Assert.Equal(JobState.Done, (await Work(engineer, "addresses", new { ids = new[] { id }, by = "label" })).State);
        Assert.Contains("give the project a passphrase", (await Work(engineer, "send", new { ids = new[] { id } })).Message, StringComparison.Ordinal);
        Assert.Contains("passphrase", await Refused(engineer, $"/api/bus/work/{id}/label", new { label = certificate }), StringComparison.Ordinal);
        Assert.Contains("12 letters", await Refused(engineer, "/api/bus/keys/open", new { passphrase = "short" }), StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/keys/open", new { passphrase = "marsh salt and cobalt" }));
        Assert.Contains("certificate of ‘Secured at work’ is not known", (await Work(engineer, "send", new { ids = new[] { id } })).Message, StringComparison.Ordinal);
        // That of another device, and one mistyped, are told apart.
        Assert.Contains("does not add up", await Refused(engineer, $"/api/bus/work/{id}/label", new { label = $"{certificate[..10]}{(certificate[10] == 'A' ? 'B' : 'A')}{certificate[11..]}" }), StringComparison.Ordinal);
        await Read(await engineer.Post($"/api/bus/work/{id}/label", new { label = sticker["code"]!.GetValue<string>() }));
        Assert.Equal(JobState.Done, (await Work(engineer, "send", new { ids = new[] { id } })).State);
        Assert.Equal("same", (await Row(engineer, id))["state"]!.GetValue<string>());
        // Tried over sealed telegrams; without the key nobody gives it an order.
        JsonNode tried = await Read(await engineer.Post($"/api/bus/try/{id}", new { channel = "output1", value = 1 }));
        Assert.Equal(1, tried["channels"]!.AsArray().Single(c => c!["key"]!.GetValue<string>() == "output1")!["now"]!.GetValue<double>());
        await Read(await engineer.Post("/api/bus/keys/lock", new { passphrase = "" }));
        Assert.Contains("locked", (await Work(engineer, "send", new { ids = new[] { id } })).Message, StringComparison.Ordinal);
        // Looked at together with others, it does not keep them from being looked at.
        JobView both = await Work(engineer, "look", new { ids = new[] { id, "bus-dim-1" } });
        Assert.Equal(JobState.Done, both.State);
        Assert.StartsWith("1 of 2 answer; 1 could not be asked.", both.Message, StringComparison.Ordinal);
        Assert.NotNull((await Row(engineer, "bus-dim-1"))["health"]);
        Assert.Contains("not the passphrase", await Refused(engineer, "/api/bus/keys/open", new { passphrase = "marsh salt and cobaltt" }), StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/keys/open", new { passphrase = "marsh salt and cobalt" }));
        Assert.Contains("not the present passphrase", await Refused(engineer, "/api/bus/keys/change", new { passphrase = "another set of words" }), StringComparison.Ordinal);
        await Read(await engineer.Post("/api/bus/keys/change", new { old = "marsh salt and cobalt", passphrase = "another set of words" }));
        await Read(await engineer.Post("/api/bus/keys/lock", new { passphrase = "" }));
        await Read(await engineer.Post("/api/bus/keys/open", new { passphrase = "another set of words" }));
        Assert.Equal(JobState.Done, (await Work(engineer, "look", new { ids = new[] { id } })).State);
        Assert.Equal("same", (await Row(engineer, id))["state"]!.GetValue<string>());
        // In no file of the data folder, and in nothing that leaves over the interface, stands a key: in octets, digits or letters.
        DeviceKeys keys = server.Get<BusKeys>().Of(new RecordId(id))!;
        foreach (string page in (string[])["/api/bus/work", "/api/bus/keys", "/api/history", "/api/trail", "/api/project/file", $"/api/bus/devices/{id}"]) Holds(await (await engineer.Get(page)).Content.ReadAsByteArrayAsync(), page);
        foreach (string file in Directory.EnumerateFiles(server.Folder, "*", SearchOption.AllDirectories).Where(f => Path.GetFileName(f) != "lock"))
        {
            using var stream = new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
            using var octets = new MemoryStream();
            stream.CopyTo(octets);
            Holds(octets.ToArray(), file);
        }
        // A backup has them as they are at rest: whoever loses the disk need not read all stickers again.
        Assert.Contains(server.Get<ProjectDirectory>().Main.Databases, d => d.FilePath.EndsWith("keys.db", StringComparison.Ordinal));
        // Reset at its button it is open again, and takes the same certificate once more.
        await Read(await engineer.Post("/api/bus/work/act", new { id, @do = "reset" }));
        Assert.Equal(JobState.Done, (await Work(engineer, "addresses", new { ids = new[] { id }, by = "label" })).State);
        Assert.Equal(JobState.Done, (await Work(engineer, "send", new { ids = new[] { id } })).State);

        void Holds(byte[] octets, string where)
        {
            string text = System.Text.Encoding.Latin1.GetString(octets);
            foreach (byte[] key in (byte[][])[keys.Certified, keys.Tool])
            {
                Assert.True(octets.AsSpan().IndexOf(key) < 0, where);
                Assert.DoesNotContain(Convert.ToHexString(key), text, StringComparison.OrdinalIgnoreCase);
                Assert.DoesNotContain(Convert.ToBase64String(key), text, StringComparison.Ordinal);
            }
            Assert.DoesNotContain(certificate.Replace("-", "", StringComparison.Ordinal)[10..], text.Replace("-", "", StringComparison.Ordinal), StringComparison.OrdinalIgnoreCase);
        }
    }

    [Fact]
    public async Task What_devices_said_is_shown_over_time_and_they_are_looked_at_by_themselves()
    {
        Client engineer = await Engineer();
        var site = server.Get<SiteHost>();
        Assert.Equal(JobState.Done, (await Work(engineer, "look", new { ids = new[] { "bus-dim-1" } })).State);
        await Read(await engineer.Post("/api/bus/try/bus-dim-1", new { channel = "output1", value = 40 }));
        await Task.Delay(200);
        Assert.Equal(JobState.Done, (await Work(engineer, "look", new { ids = new[] { "bus-dim-1" } })).State);
        await Read(await engineer.Post("/api/bus/try/bus-dim-1", new { channel = "output1" }));
        long now = site.Clock().Now;
        JsonArray drives = (await engineer.Read($"/api/bus/work/bus-dim-1/history?what=drives&from={now - 3_600_000}&to={now + 1000}")).AsArray();
        Assert.Equal(40, drives[0]!["last"]!.AsArray()[^1]!.GetValue<double>(), 0.5);
        Assert.True(drives[0]!["at"]!.AsArray().Count >= 2);
        Assert.Contains(",drives,40,", await (await engineer.Get("/api/bus/work/bus-dim-1/history.csv")).Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(422, (int)(await engineer.Get($"/api/bus/work/bus-dim-1/history?what=secrets&from=0&to=1")).StatusCode);
        // Never, until somebody says how often; then when it is time, and no sooner.
        var history = server.Get<BusHistory>();
        Assert.False(history.Look());
        Assert.Equal(422, (int)(await engineer.Post("/api/bus/work/watch", new { minutes = -1 })).StatusCode);
        await Read(await engineer.Post("/api/bus/work/watch", new { minutes = 1 }));
        long until = Environment.TickCount64 + 30_000;
        while (!server.Get<JobRunner>().All.Any(j => j.Kind == "busLook" && j.StartedBy == "the program") && Environment.TickCount64 < until) await Task.Delay(100);
        JobView own = server.Get<JobRunner>().All.First(j => j.Kind == "busLook" && j.StartedBy == "the program");
        await Read(await engineer.Post("/api/bus/work/watch", new { minutes = 0 }));
        Assert.StartsWith("Look at ", own.Label, StringComparison.Ordinal);
        await engineer.Post($"/api/jobs/{own.Id}/stop", new { });
    }
}
