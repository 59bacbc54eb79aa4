using System.Diagnostics;
using System.Net;
using System.Text.Json.Nodes;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Safety;
using LoftyWren.Storage.Projects;
using LoftyWren.Storage.Site;
using Microsoft.AspNetCore.SignalR.Client;

namespace LoftyWren.Server.Tests;

/// <summary>The server as a process: starting, stopping and starting again over what may be wrong with its folder.</summary>
[Trait("Takes", "long")]
public sealed class ProcessTests : IDisposable
{
    private readonly string _data = Directory.CreateTempSubdirectory("lofty-wren-process-").FullName;
    private readonly List<Process> _running = [];

    public void Dispose()
    {
        foreach (Process process in _running.Where(p => !p.HasExited)) process.Kill(entireProcessTree: true);
        Directory.Delete(_data, recursive: true);
    }

    private sealed class Said
    {
        public required Process Process { get; init; }

        public System.Text.StringBuilder Text { get; } = new();

        public async Task<int> Exit()
        {
            await Process.WaitForExitAsync(new CancellationTokenSource(TimeSpan.FromSeconds(60)).Token);
            Process.WaitForExit();
            return Process.ExitCode;
        }

        public async Task<Said> Until(string text)
        {
            for (int i = 0; i < 1800 && !All().Contains(text, StringComparison.Ordinal) && !Process.HasExited; i++) await Task.Delay(100);
            Assert.Contains(text, All());
            return this;
        }

        public string All()
        {
            lock (Text) return Text.ToString();
        }
    }

    private Said Start(int port, params string[] more)
    {
        var start = new ProcessStartInfo("dotnet") { WorkingDirectory = DemoServer.Root(), RedirectStandardOutput = true, RedirectStandardError = true };
        foreach (string argument in (string[])[typeof(LoftyWrenServer).Assembly.Location, "--data", _data, "--port", $"{port}", .. more]) start.ArgumentList.Add(argument);
        var said = new Said { Process = Process.Start(start)! };
        DataReceivedEventHandler take = (_, e) =>
        {
            lock (said.Text) said.Text.AppendLine(e.Data);
        };
        said.Process.OutputDataReceived += take;
        said.Process.ErrorDataReceived += take;
        said.Process.BeginOutputReadLine();
        said.Process.BeginErrorReadLine();
        _running.Add(said.Process);
        return said;
    }

    private static async Task Stop(Said said)
    {
        Process.Start("kill", ["-TERM", $"{said.Process.Id}"]).WaitForExit();
        Assert.Equal(0, await said.Exit());
    }

    [Fact]
    public async Task One_folder_one_server_one_port_and_an_orderly_stop_that_says_so()
    {
        int port = DemoServer.FreePort();
        Said first = await Start(port, "--empty").Until("is ready");
        Said second = Start(DemoServer.FreePort(), "--empty");
        Assert.Equal(1, await second.Exit());
        Assert.Contains($"Another Lofty Wren already works on the folder {_data}.", second.All());
        Assert.DoesNotContain("   at ", second.All());
        await Stop(first);
        Assert.Contains("Lofty Wren has stopped; everything is in its files.", first.All());
        Assert.Empty(Directory.GetFiles(_data, "*.db-wal"));
        Assert.DoesNotContain("   at ", first.All());

        using var taken = new System.Net.Sockets.TcpListener(IPAddress.Loopback, port);
        taken.Start();
        Said late = Start(port, "--empty");
        Assert.Equal(1, await late.Exit());
        Assert.Contains($"port {port} is taken by another program", late.All());
        Assert.DoesNotContain("   at ", late.All());
    }

    /// <summary>What somebody commanded and was told is done is there after a kill at once: outputs held, an input held, one released again, a program sent; each with its line in the trail. The site's clock does not go back.</summary>
    [Fact]
    public async Task What_was_commanded_is_there_after_a_kill()
    {
        await DemoServer.Fill(_data);
        int port = DemoServer.FreePort();
        Said first = await Start(port).Until("is ready");
        var technician = new Client($"http://localhost:{port}");
        (await technician.Post("/api/sign-in", new { name = "technician", password = "saltmarsh" })).EnsureSuccessStatusCode();
        (await technician.Post("/api/site/clock", new { running = true, speed = 60 })).EnsureSuccessStatusCode();
        (await technician.Post("/api/held", new { pointId = "throw-valve", value = 30, why = "valve exercise", minutes = (double?)null })).EnsureSuccessStatusCode();
        (await technician.Post("/api/held", new { pointId = "kiln-fan", value = 1, why = "trial run", minutes = (double?)null })).EnsureSuccessStatusCode();
        (await technician.Post("/api/held/inputs", new { pointId = "kiln-temp", value = 27.5, why = "trial", minutes = (double?)null })).EnsureSuccessStatusCode();
        (await technician.Post("/api/held/release", new { pointId = "kiln-fan" })).EnsureSuccessStatusCode();
        string job = JsonNode.Parse(await (await technician.Post("/api/commission/bn-c1/send")).Content.ReadAsStringAsync())!["id"]!.GetValue<string>();
        while ((await technician.Read("/api/jobs")).AsArray().Single(j => j!["id"]!.GetValue<string>() == job)!["state"]!.GetValue<string>() == "running") await Task.Delay(20);
        JsonNode before = (await technician.Read("/api/commission")).AsArray().Single(a => a!["controllerId"]!.GetValue<string>() == "bn-c1")!;
        long now = (await technician.Read("/api/site"))["now"]!.GetValue<long>();
        first.Process.Kill(entireProcessTree: true);
        await first.Exit();

        await Start(port).Until("is ready");
        var again = new Client($"http://localhost:{port}");
        (await again.Post("/api/sign-in", new { name = "technician", password = "saltmarsh" })).EnsureSuccessStatusCode();
        string[] held = [.. (await again.Read("/api/held")).AsArray().Select(h => h!["pointId"]!.GetValue<string>())];
        Assert.Contains("throw-valve", held);
        Assert.Contains("kiln-temp", held);
        Assert.DoesNotContain("kiln-fan", held);
        string[] trail = [.. (await again.Read("/api/trail")).AsArray().Select(t => t!["what"]!.GetValue<string>())];
        Assert.Contains(trail, t => t.Contains("valve exercise", StringComparison.Ordinal));
        Assert.Contains(trail, t => t.StartsWith("Sent BN-C1", StringComparison.Ordinal));
        JsonNode after = (await again.Read("/api/commission")).AsArray().Single(a => a!["controllerId"]!.GetValue<string>() == "bn-c1")!;
        Assert.Equal(before["version"]!.GetValue<int>(), after["version"]!.GetValue<int>());
        // The clock is written with each command; a few seconds at 60× may have passed since the last.
        Assert.True((await again.Read("/api/site"))["now"]!.GetValue<long>() >= now - 60_000 * 5);
    }

    [Fact]
    public async Task A_damaged_project_is_never_replaced_by_the_demo_and_one_command_brings_its_backup_back()
    {
        int port = DemoServer.FreePort();
        Said server = await Start(port, "--empty").Until("with this code: ");
        await server.Until("is ready");
        var client = new Client($"http://localhost:{port}");
        string code = server.All().Split("with this code: ")[1].Trim().Split('\n')[0].Trim();
        (await client.Post("/api/first-account", new { code, name = "keeper", password = "quay-side-9" })).EnsureSuccessStatusCode();
        Assert.Equal(200, (await client.Change(Edit.Of(new Place { Id = new("site"), Name = "Own site", Kind = PlaceKind.Site, TimeZone = "Europe/London" }))).Status);
        (await client.Post("/api/backups")).EnsureSuccessStatusCode();
        Assert.Equal(200, (await client.Change(Edit.Of(new Place { Id = new("house"), Name = "House", Kind = PlaceKind.Building, In = new("site") }))).Status);
        await Stop(server);

        using (FileStream file = new(Path.Combine(_data, "project.db"), FileMode.Open)) file.Write(new byte[24]);
        // Without --empty, too: a demo must never come where a project was.
        foreach (string[] how in new string[][] { ["--empty"], [] })
        {
            Said broken = Start(port, how);
            Assert.Equal(1, await broken.Exit());
            Assert.Contains("project.db is damaged", broken.All());
            Assert.Contains("of revision 1", broken.All());
            Assert.Contains("1 later edit is not in it", broken.All());
            Assert.DoesNotContain("   at ", broken.All());
        }
        Said restored = Start(port, "--restore");
        Assert.Equal(0, await restored.Exit());
        Assert.Contains("revision 1, again. What was there is kept as", restored.All());
        await Stop(await Start(port).Until("is ready"));
        using var store = new ProjectStore(Path.Combine(_data, "project.db"));
        Assert.Equal(["Own site"], store.Load().Records.Select(r => r.Name));
    }

    // Every database of the folder, and the keys: each damage is told in a sentence before anything is served, none with a trace.
    [Fact]
    public async Task Any_damaged_database_is_found_at_the_start_and_put_back_by_one_command()
    {
        int port = DemoServer.FreePort();
        await Stop(await Start(port, "--empty").Until("is ready"));
        foreach (string name in new[] { "accounts.db", "libraries.db", "projects.db", "history.db", "site.db" })
        {
            using (FileStream file = new(Path.Combine(_data, name), FileMode.Open))
            {
                file.Position = 4096;
                file.Write([.. Enumerable.Repeat((byte)0x5a, (int)Math.Min(8192, file.Length - 4096))]);
            }
            Said broken = Start(port, "--empty");
            Assert.Equal(1, await broken.Exit());
            Assert.Contains($"{name} is damaged", broken.All());
            Assert.Contains("Start with --restore", broken.All());
            Assert.DoesNotContain("   at ", broken.All());
            Said restored = Start(port, "--restore");
            Assert.Equal(0, await restored.Exit());
            Assert.Contains($"{name} is the backup made", restored.All());
        }
        foreach (string key in Directory.GetFiles(Path.Combine(_data, "keys"), "key-*.xml")) File.WriteAllText(key, "not xml");
        await Stop(await Start(port, "--empty").Until("is ready"));
    }
}

/// <summary>The demo's machines left alone for half a day of site time.</summary>
public class DemoPlantTests(DemoServer server) : IClassFixture<DemoServer>
{
    // The heat pump runs at least 600 s and rests at least 300 s, the humidifier 120 s and 180 s, as their blocks say; each of
    // them starts more than once, so that the law is tried.
    [Theory]
    [InlineData("hp-run", 600, 300)]
    [InlineData("dry-humid-run", 120, 180)]
    public void Machines_keep_their_minimum_times(string point, int minOn, int minOff) => server.Get<SiteHost>().Ask(site =>
    {
        double before = double.NaN;
        long since = 0;
        int changes = 0;
        for (long end = site.Now + (12 * 3_600_000L); site.Now < end;)
        {
            site.RunUntil(site.Now + 1000);
            double now = server.Get<SiteHost>().Read(new(point))!.Value.Value;
            if (now == before) continue;
            // The first stretch began before we looked.
            if (changes++ > 1) Assert.True(site.Now - since >= (before == 1 ? minOn : minOff) * 1000L, $"{point} was {before} for {(site.Now - since) / 1000} s only.");
            (before, since) = (now, site.Now);
        }
        if (point == "hp-run") Assert.InRange(changes, 4, 100);
        return 0;
    });
}

/// <summary>Whom files belong to.</summary>
public class PrivateFilesTests
{
    private const UnixFileMode Ours = UnixFileMode.UserRead | UnixFileMode.UserWrite, Folder = Ours | UnixFileMode.UserExecute;

    [Fact]
    public void What_is_in_a_data_folder_and_what_comes_into_it_is_its_users_alone()
    {
        if (OperatingSystem.IsWindows()) return;
        string data = Directory.CreateTempSubdirectory("lofty-wren-private-").FullName, sub = Path.Combine(data, "keys"), old = Path.Combine(sub, "site.db");
        Directory.CreateDirectory(sub);
        File.WriteAllText(old, "");
        File.SetUnixFileMode(sub, Folder | UnixFileMode.OtherRead | UnixFileMode.GroupRead);
        File.SetUnixFileMode(old, Ours | UnixFileMode.OtherRead | UnixFileMode.GroupWrite);
        PrivateFiles.Make(data);
        File.WriteAllText(Path.Combine(data, "new.db"), "");
        Assert.Equal((Folder, Folder, Ours, Ours), (File.GetUnixFileMode(data), File.GetUnixFileMode(sub), File.GetUnixFileMode(old), File.GetUnixFileMode(Path.Combine(data, "new.db"))));
        Directory.Delete(data, recursive: true);
    }
}

/// <summary>Sessions, rights and a full disk, on the demo.</summary>
public class SafetyTests(DemoServer server) : IClassFixture<DemoServer>
{
    [Fact]
    public async Task A_copied_cookie_is_worth_nothing_after_signing_out()
    {
        Client client = await server.As("viewer"), copy = new(server.Address);
        copy.Cookies.Add(new Uri(server.Address), client.Cookies.GetCookies(new Uri(server.Address)));
        Assert.Equal(HttpStatusCode.OK, (await copy.Get("/api/project")).StatusCode);
        (await client.Post("/api/sign-out")).EnsureSuccessStatusCode();
        Assert.Equal(HttpStatusCode.Unauthorized, (await copy.Get("/api/project")).StatusCode);
    }

    [Fact]
    public async Task A_new_password_ends_every_session_and_its_live_lines_at_once()
    {
        Client administrator = await server.As("administrator");
        (await administrator.Post("/api/accounts", new { name = "keeper", password = "quay-side-9", role = "viewer" })).EnsureSuccessStatusCode();
        var here = new Client(server.Address);
        var there = new Client(server.Address);
        foreach (Client client in new[] { here, there }) (await client.Post("/api/sign-in", new { name = "keeper", password = "quay-side-9" })).EnsureSuccessStatusCode();
        await using HubConnection line = new HubConnectionBuilder().WithUrl($"{server.Address}/live", o => o.Cookies = there.Cookies).Build();
        var closed = new TaskCompletionSource();
        line.Closed += _ =>
        {
            closed.TrySetResult();
            return Task.CompletedTask;
        };
        await line.StartAsync();
        (await here.Post("/api/me/password", new { old = "quay-side-9", @new = "tide-mark-7" })).EnsureSuccessStatusCode();
        await closed.Task.WaitAsync(TimeSpan.FromSeconds(10));
        Assert.Equal(HttpStatusCode.Unauthorized, (await there.Get("/api/project")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await here.Get("/api/project")).StatusCode);
    }

    [Fact]
    public async Task An_operator_does_not_let_go_an_input_that_a_technician_holds()
    {
        Client technician = await server.As("technician"), person = await server.As("operator");
        (await technician.Post("/api/held/inputs", new { pointId = "kiln-temp", value = 25, why = "trying", minutes = 10 })).EnsureSuccessStatusCode();
        HttpResponseMessage refused = await person.Post("/api/held/release", new { pointId = "kiln-temp" });
        Assert.Equal((HttpStatusCode.UnprocessableEntity, "An input is held here, which only a technician may hold and let go. Ask one."), (refused.StatusCode, await Client.Detail(refused)));
        Assert.Contains((await person.Read("/api/held")).AsArray(), h => h!["pointId"]!.GetValue<string>() == "kiln-temp");
        (await technician.Post("/api/held/release", new { pointId = "kiln-temp" })).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task What_cannot_be_written_is_not_done_on_the_site_nor_in_the_project_and_says_so()
    {
        Client person = await server.As("operator"), technician = await server.As("technician");
        SiteStore store = server.Get<SiteStore>();
        int held = (await person.Read("/api/held")).AsArray().Count, trail = (await person.Read("/api/trail")).AsArray().Count;
        int speed = server.Get<SiteHost>().Clock().Speed;
        store.Database.RefusesWrites = true;
        try
        {
            HttpResponseMessage hold = await person.Post("/api/held", new { pointId = "throw-valve", value = 30, why = "no room", minutes = 10 });
            Assert.Equal(HttpStatusCode.ServiceUnavailable, hold.StatusCode);
            Assert.Contains("may not be written: the disk or the folder is read-only. Nothing was changed.", await Client.Detail(hold));
            HttpResponseMessage clock = await technician.Post("/api/site/clock", new { speed = speed == 600 ? 60 : 600 });
            Assert.Equal(HttpStatusCode.ServiceUnavailable, clock.StatusCode);
            Assert.Equal(held, (await person.Read("/api/held")).AsArray().Count);
            Assert.Equal(speed, server.Get<SiteHost>().Clock().Speed);
            for (int i = 0; i < 100 && server.Get<SiteHost>().Clock().Trouble is null; i++) await Task.Delay(100);
            Assert.StartsWith("The site stands still: ", server.Get<SiteHost>().Clock().Trouble);
        }
        finally
        {
            store.Database.RefusesWrites = false;
        }
        for (int i = 0; i < 100 && server.Get<SiteHost>().Clock().Trouble is not null; i++) await Task.Delay(100);
        Assert.Null(server.Get<SiteHost>().Clock().Trouble);
        Assert.Equal(trail, (await person.Read("/api/trail")).AsArray().Count);
        (await person.Post("/api/held", new { pointId = "throw-valve", value = 30, why = "room again", minutes = 10 })).EnsureSuccessStatusCode();
        Assert.Equal(trail + 1, (await person.Read("/api/trail")).AsArray().Count);
    }

    [Fact]
    public async Task A_backup_is_made_and_restored_from_the_page_and_the_restoring_can_be_undone()
    {
        Client engineer = await server.As("engineer");
        Place room = server.Get<Workspace>().Project.All<Place>().First(p => p.Kind == PlaceKind.Room);
        JsonNode made = JsonNode.Parse(await (await engineer.Post("/api/backups")).Content.ReadAsStringAsync())!["backups"]![0]!;
        Assert.Equal(server.Get<Workspace>().Project.Revision, made["revision"]!.GetValue<long>());
        await engineer.Change(Edit.Of(room with { Name = "Renamed since" }));
        (await engineer.Post($"/api/backups/{made["number"]}/restore")).EnsureSuccessStatusCode();
        Assert.Equal(room.Name, server.Get<Workspace>().Project.Find(room.Id)!.Name);
        (await engineer.Post("/api/undo")).EnsureSuccessStatusCode();
        Assert.Equal("Renamed since", server.Get<Workspace>().Project.Find(room.Id)!.Name);
        Assert.Contains("not there any more", await Client.Detail(await engineer.Post("/api/backups/999/restore")));
    }
}
