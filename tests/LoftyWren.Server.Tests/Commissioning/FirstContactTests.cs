using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Commissioning;
using LoftyWren.Storage.Commissioning;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Tests.Commissioning;

/// <summary>From the box to a controller that runs, over its encrypted connection; and what happens when something breaks on the way.</summary>
public class FirstContactTests
{
    [Fact]
    public async Task Out_of_its_box_it_is_met_set_up_and_proves_that_it_runs()
    {
        using var bench = new Workbench();
        string serial = bench.Hang();
        Assert.Equal(SystemStatus.DownloadRequired, bench.Host.Standings().Single().Status);
        SetUpOrder order = await bench.Met(serial);
        ContactLook look = await bench.Contacts.Look(bench.Designed, new ContactPlace(order.Host, order.Port), default);
        Assert.True(look.Seen.Identity.IsFactory);
        Assert.Equal("loader", Assert.Single(look.Parts).Key);
        bench.Contacts.Type(Workbench.Controller, Workbench.Secrets);
        var said = new List<string>();
        Assert.Equal("KH-C1 is set up and runs version 1: what it says it runs is what was designed.", await bench.Sending().SetUp(order, "technician", Workbench.Job(said)));
        Assert.Contains(said, s => s.StartsWith("Kernel 3.4: ", StringComparison.Ordinal));
        Assert.Contains("KH-C1 starts; that takes up to 18 s of site time", said.Select(s => s.Replace("19 s", "18 s", StringComparison.Ordinal)));
        Assert.Equal((bench.DesignHash, DevicePhase.Running), (bench.Device.Hash, bench.Device.Life.Phase));
        // Nothing was decided: the first address, written into the project.
        Assert.Equal("10.20.1.11", ((Controller)bench.Designed).Address);
        Assert.Equal("10.20.1.11", bench.Device.Door!.Settings!.Address);
        KeptContact kept = bench.Contacts.Find(Workbench.Controller)!;
        Assert.Equal((serial, "contractor", "client", "technician", order.Fingerprint), (kept.Serial, kept.Account, kept.SecondAccount, kept.SetUpBy, kept.Fingerprint));
        Assert.InRange(bench.Device.Door.OffsetAt(bench.Host.Pulse().Now), -100, 100);
        Assert.Contains(bench.Host.TrailPage(long.MaxValue, 50), t => t.What == $"Set up KH-C1 as {serial}" && t.Who == "technician");
    }

    [Fact]
    public async Task One_device_is_one_controller_whatever_is_asked()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.SetUp();
        var second = new Core.Records.RecordId("second");
        var made = bench.Work.Apply([Core.Projects.Edit.Of((Core.Hardware.Controller)bench.Designed with { Id = second, Name = "KH-C9", Address = null, DeviceInstance = 2199 })], "engineer");
        Assert.True(made.Accepted, string.Join(' ', made.Refusals.Select(r => r.Sentence)));
        bench.Contacts.Type(second, Workbench.Secrets);
        int version = bench.Device.Version;
        string why = (await Assert.ThrowsAsync<InvalidOperationException>(() => bench.Sending().SetUp(order with { ControllerId = second }, "technician", Workbench.Job()))).Message;
        Assert.Equal($"{order.Serial} is KH-C1. A device is one controller only; forget the connection of KH-C1 first, or choose another device for KH-C9. Nothing was written.", why);
        Assert.Equal((version, true), (bench.Device.Version, bench.Contacts.Find(second) is null));
        // Two that are set up at the same moment: one of them has it.
        bench.Contacts.Forget(Workbench.Controller);
        using (bench.Contacts.Claim(order.Serial, bench.Designed)) Assert.Throws<InvalidOperationException>(() => bench.Contacts.Claim(order.Serial, bench.Project.Find(second)!));
        bench.Contacts.Claim(order.Serial, bench.Project.Find(second)!).Dispose();
    }

    [Fact]
    public async Task Sends_to_one_controller_go_one_after_the_other()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        int version = bench.Device.Version;
        var waited = new List<string>();
        using (await bench.Contacts.Turn(bench.Designed, () => { }, default))
        {
            bench.Edit(31);
            Task<string> send = bench.Sending().Send(new SendOrder(Workbench.Controller, false), "technician", Workbench.Job(waited));
            Assert.Equal("Waiting for the send to KH-C1 that is under way", Assert.Single(waited));
            Assert.Equal((false, version), (send.IsCompleted, bench.Device.Version));
        }
        for (int i = 0; i < 600 && bench.Device.Version == version; i++) await Task.Delay(50);
        Assert.Equal(version + 1, bench.Device.Version);
    }

    /// <summary>Twenty controllers, five writers to each: never two at one, all twenty at once, and everybody has a turn.</summary>
    [Fact]
    public async Task Twenty_controllers_are_written_side_by_side_and_each_by_one_at_a_time()
    {
        using var bench = new Workbench();
        var hosts = Enumerable.Range(1, 20).Select(n => (Core.Hardware.Controller)bench.Designed with { Id = new($"c{n}"), Name = $"C{n}" }).ToList();
        var within = new System.Collections.Concurrent.ConcurrentDictionary<Core.Records.RecordId, int>();
        int turns = 0, together = 0;
        var all = new TaskCompletionSource();
        await Task.WhenAll(hosts.SelectMany(host => Enumerable.Range(0, 5).Select(_ => Task.Run(async () =>
        {
            using IDisposable turn = await bench.Contacts.Turn(host, () => { }, default);
            Assert.Equal(1, within.AddOrUpdate(host.Id, 1, (_, n) => n + 1));
            // None of the first leaves before all twenty are at work: were one to wait for another, this would never end.
            if (Interlocked.Increment(ref together) == hosts.Count) all.TrySetResult();
            await all.Task;
            Interlocked.Increment(ref turns);
            within.AddOrUpdate(host.Id, 0, (_, n) => n - 1);
        })))).WaitAsync(TimeSpan.FromMinutes(2));
        Assert.Equal(100, turns);
    }

    [Fact]
    public async Task Silent_callers_keep_nobody_out_of_a_device()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.SetUp();
        var silent = new List<System.Net.Sockets.TcpClient>();
        try
        {
            for (int i = 0; i < 60; i++)
            {
                silent.Add(new System.Net.Sockets.TcpClient());
                await silent[^1].ConnectAsync(order.Host, order.Port);
            }
            await using ContactClient client = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), order.Fingerprint, default);
            await client.SignIn(Workbench.Secrets.Accounts[0]);
            Assert.True((await client.Report()).Version > 0);
        }
        finally
        {
            foreach (var one in silent) one.Dispose();
        }
    }

    [Fact]
    public async Task No_private_key_of_a_device_lies_open_in_the_file_of_its_site()
    {
        string folder = Directory.CreateTempSubdirectory("lofty-wren-sealed-").FullName;
        var protection = new Microsoft.AspNetCore.DataProtection.EphemeralDataProtectionProvider();
        byte[] certificate;
        using (var store = new Storage.Site.SiteStore(Path.Combine(folder, "site.db")))
        {
            var host = new Installation.SiteHost(store, TimeProvider.System, Microsoft.Extensions.Logging.Abstractions.NullLogger.Instance, protection.CreateProtector(Installation.SiteHost.SealPurpose));
            host.Open(Installation.SiteHost.Beginning);
            host.Hang("technician", "Hung", Workbench.Controller, Core.Images.ControllerImageBuilder.KindKey, new Installation.BoxedDevice("compact-20", "1.0", new LinkQuality(10_000, 0, 0)));
            certificate = host.Ask(s => s.Devices[Workbench.Controller].Door!.Certificate);
            byte[] kept = store.Read()[$"door/{Workbench.Controller}"];
            Assert.True(kept.AsSpan().IndexOf("certificate"u8) < 0 && kept.AsSpan().IndexOf(System.Text.Encoding.ASCII.GetBytes(Convert.ToBase64String(certificate)[..40])) < 0);
            host.CloseDoors();
            host.Dispose();
        }
        using (var store = new Storage.Site.SiteStore(Path.Combine(folder, "site.db")))
        {
            var again = new Installation.SiteHost(store, TimeProvider.System, Microsoft.Extensions.Logging.Abstractions.NullLogger.Instance, protection.CreateProtector(Installation.SiteHost.SealPurpose));
            again.Open(Installation.SiteHost.Beginning);
            Assert.Equal(certificate, again.Ask(s => s.Devices[Workbench.Controller].Door!.Certificate));
            again.CloseDoors();
            again.Dispose();
        }
        Directory.Delete(folder, recursive: true);
        await Task.CompletedTask;
    }

    [Fact]
    public async Task Neither_the_factorys_credentials_nor_wrong_ones_open_it_afterwards()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.SetUp();
        await using ContactClient client = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), order.Fingerprint, default);
        Assert.Contains("Account or secret is wrong", (await Assert.ThrowsAsync<InvalidOperationException>(() => client.SignIn(DeviceAccount.Factory))).Message, StringComparison.Ordinal);
        Assert.Equal("Sign in first.", (await Assert.ThrowsAsync<InvalidOperationException>(client.Report)).Message);
        await client.SignIn(Workbench.Secrets.Accounts[1]);
        Assert.Contains("passphrase is wrong", (await Assert.ThrowsAsync<InvalidOperationException>(() => client.ReadBack("guess"))).Message, StringComparison.Ordinal);
        Assert.Equal(bench.Device.ImageBytes, await client.ReadBack(Workbench.Secrets.Passphrase));
    }

    [Fact]
    public async Task With_the_factorys_credentials_nothing_can_be_done_but_to_replace_them()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.Met(bench.Hang());
        await using ContactClient client = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), null, default);
        await client.SignIn(DeviceAccount.Factory);
        foreach (Func<Task> act in new Func<Task>[] { () => client.Begin(new PartOffer("kernel", PartLayer.Runtime, "3.4", "h", 10)), () => client.SetClock(5), () => client.Configure(new DeviceSettings("x", "10.0.0.1", 24, null, true)), () => client.Activate(new ActivateOrder("x", "x", [], true)) })
            Assert.Contains("factory's credentials", (await Assert.ThrowsAsync<InvalidOperationException>(act)).Message, StringComparison.Ordinal);
        Assert.Contains("signed in with them", (await Assert.ThrowsAsync<InvalidOperationException>(client.Confirm)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_exchanged_controller_is_noticed_by_its_certificate_and_nothing_is_sent_to_it()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        bench.Edit(27);
        string serial = bench.Hang();
        await Assert.ThrowsAsync<ContactLostException>(() => bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job()));
        SetUpOrder order = await bench.Met(serial);
        ContactLook look = await bench.Contacts.Look(bench.Designed, new ContactPlace(order.Host, order.Port), default);
        Assert.Contains("another certificate than before", look.Trouble, StringComparison.Ordinal);
        Assert.Equal("", bench.Device.Hash);
        // Somebody who stands at the old address with a certificate of his own gets nothing either.
        bench.Contacts.Remember(Workbench.Controller, bench.Contacts.Find(Workbench.Controller)! with { Host = order.Host, Port = order.Port, Serial = serial });
        await Assert.ThrowsAsync<CertificateChangedException>(() => bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job()));
        bench.Contacts.Forget(Workbench.Controller);
        bench.Contacts.Type(Workbench.Controller, Workbench.Secrets);
        await bench.Sending().SetUp(order, "technician", Workbench.Job());
        Assert.Equal(bench.DesignHash, bench.Device.Hash);
    }

    [Fact]
    public async Task Secrets_are_kept_sealed_and_open_nothing_elsewhere()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        byte[] kept = bench.Store.Secrets(Workbench.Controller.Value)!;
        Assert.DoesNotContain("blue-glaze-77", System.Text.Encoding.UTF8.GetString(kept), StringComparison.Ordinal);
        SqliteConnection.ClearAllPools();
        foreach (string file in Directory.GetFiles(Path.GetDirectoryName(bench.SiteFile)!))
        {
            string all = System.Text.Encoding.Latin1.GetString(await File.ReadAllBytesAsync(file));
            Assert.False(all.Contains("blue-glaze-77", StringComparison.Ordinal) || all.Contains("three pots on a shelf", StringComparison.Ordinal), file);
        }
        Assert.NotNull(bench.Contacts.SecretsOf(Workbench.Controller));
        var elsewhere = new Contacts(bench.Store, bench.Work, new ImageCache(bench.Work), bench.Host, new Microsoft.AspNetCore.DataProtection.EphemeralDataProtectionProvider());
        Assert.Null(elsewhere.SecretsOf(Workbench.Controller));
        Assert.Contains("cannot be opened on this machine", (await Assert.ThrowsAsync<InvalidOperationException>(() => elsewhere.Open(bench.Designed, default))).Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_was_sent_but_failed_at_its_trial_is_told_with_what_runs_instead()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        string before = bench.Device.Hash;
        bench.Edit(27);
        // The controller changes over; in its first scan a program of this kind fails: the trial sees it.
        var sending = new Sending(bench.Work, bench.Host, bench.Contacts, bench.Days(), TimeProvider.System)
        {
            Waiting = () => bench.Host.Ask(s =>
            {
                s.Devices[Workbench.Controller].Fail("division by zero", s.Now);
                return 0;
            }),
        };
        var failed = await Assert.ThrowsAsync<InvalidOperationException>(() => sending.Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job()));
        Assert.Equal("KH-C1 did not take it: version 2 failed: division by zero The program of version 1 runs again, as version 3.", failed.Message);
        Assert.Equal(before, bench.Device.Hash);
    }

    [Fact]
    public async Task Only_what_differs_goes_and_a_clock_is_looked_at()
    {
        using var bench = new Workbench();
        await bench.SetUp();
        bench.Edit(27);
        var said = new List<string>();
        Assert.Equal("KH-C1 runs version 2.", await bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job(said)));
        Assert.DoesNotContain(said, s => s.StartsWith("Kernel", StringComparison.Ordinal));
        Assert.Contains(said, s => s.StartsWith("Application", StringComparison.Ordinal));
        Assert.Equal("KH-C1 runs version 2.", await bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job()));
        // A program that somebody stopped stays stopped.
        bench.Host.Order("test", "stop", Workbench.Controller, DeviceOrder.Stop);
        bench.Edit(28);
        Assert.Equal("KH-C1 has version 3, and its program is stopped. Let it go on from its state when that is safe.", await bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job()));
        Assert.Equal(DevicePhase.Stopped, bench.Device.Life.Phase);
    }

    /// <summary>Two who are connected at the same time do not undo each other's acts: one signs in while the other sets the clock and gives new credentials.</summary>
    [Fact]
    public async Task What_one_connection_does_another_does_not_undo()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.SetUp();
        await using ContactClient one = await bench.Contacts.Open(bench.Designed, default);
        for (int i = 0; i < 10; i++)
        {
            long shows = bench.Host.Pulse().Now + (i * 1000);
            await using ContactClient other = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), order.Fingerprint, default);
            Task signing = other.SignIn(Workbench.Secrets.Accounts[1]);
            await one.SetClock(shows);
            await signing;
            Assert.Equal(i * 1000, bench.Device.Door!.OffsetAt(bench.Host.Pulse().Now));
        }
        Task renewing = one.Renew(new DeviceSecrets([new DeviceAccount("contractor", "another-secret-1")], "another passphrase 1"));
        await using ContactClient third = await bench.Contacts.Open(bench.Designed, default);
        await third.Configure(new DeviceSettings("KH-C1", "10.20.9.9", 24, null, true));
        await renewing;
        Assert.Equal("10.20.9.9", bench.Device.Door!.Settings!.Address);
        Assert.NotNull(bench.Device.Door.PendingAccounts);
    }

    /// <summary>The site's clock runs far ahead between any two frames, as it does at 3600 times real time on a busy machine: five minutes at each.</summary>
    [Fact]
    public async Task A_fast_clock_locks_nobody_out()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.Met(bench.Hang());
        bench.Contacts.Type(Workbench.Controller, Workbench.Secrets);
        int frames = 0;
        bench.Host.Carrying = _ =>
        {
            if (++frames < 40) bench.Host.RunAhead(bench.Host.Pulse().Now + 300_000);
        };
        await bench.Sending().SetUp(order, "technician", Workbench.Job());
        bench.Host.Carrying = null;
        Assert.Equal(bench.DesignHash, bench.Device.Hash);
    }

    [Fact]
    public async Task Who_came_in_with_credentials_that_wait_can_confirm_them_and_nothing_else()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.SetUp();
        await using ContactClient one = await bench.Contacts.Open(bench.Designed, default);
        var fresh = new DeviceAccount("contractor", "another-secret-1");
        await one.Renew(new DeviceSecrets([fresh], "another passphrase 1"));
        await using ContactClient other = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), order.Fingerprint, default);
        await other.SignIn(fresh);
        Assert.Contains("wait to be confirmed", (await Assert.ThrowsAsync<InvalidOperationException>(() => other.SetClock(1))).Message, StringComparison.Ordinal);
        await other.Confirm();
        await other.SetClock(bench.Host.Pulse().Now);
    }

    /// <summary>Set up together with others and typed what those are to have, a controller that has credentials of its own keeps them; one whose credentials were changed elsewhere takes what was typed.</summary>
    [Fact]
    public async Task What_is_kept_is_tried_before_what_was_typed()
    {
        using var bench = new Workbench();
        SetUpOrder order = await bench.SetUp();
        var others = new DeviceSecrets([new DeviceAccount("contractor", "meant-for-others-1")], "meant for the others 1");
        bench.Contacts.Type(Workbench.Controller, others);
        await bench.Sending().SetUp(order, "technician", Workbench.Job());
        Assert.Equal("blue-glaze-77", bench.Contacts.SecretsOf(Workbench.Controller)!.Accounts[0].Secret);
        await using (ContactClient elsewhere = await bench.Contacts.Open(bench.Designed, default)) await elsewhere.Renew(others);
        await using (ContactClient elsewhere = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), order.Fingerprint, default))
        {
            await elsewhere.SignIn(others.Accounts[0]);
            await elsewhere.Confirm();
        }
        bench.Contacts.Type(Workbench.Controller, others);
        await bench.Sending().SetUp(order, "technician", Workbench.Job());
        Assert.Equal("meant-for-others-1", bench.Contacts.SecretsOf(Workbench.Controller)!.Accounts[0].Secret);
    }
}
