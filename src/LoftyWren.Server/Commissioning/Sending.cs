using System.Diagnostics;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Commissioning;

namespace LoftyWren.Server.Commissioning;

/// <summary>A controller or device to be sent what is designed for it by then, and whether its wires are built first.</summary>
internal sealed record SendOrder(RecordId ControllerId, bool Build = true);

/// <summary>A controller to be set up at first contact: which device at which connection, by which certificate, and whether its program runs at once. The secrets are not in it.</summary>
internal sealed record SetUpOrder(RecordId ControllerId, string Serial, string Host, int Port, string Fingerprint, bool StartsNow, bool Build = true);

/// <summary>
/// What goes to a controller over its connection, as long work: the first contact, and each send after it. Until the last step
/// the old parts run; what was interrupted goes on where it stopped.
/// </summary>
internal sealed class Sending(Workspace workspace, IVirtualSite site, Contacts contacts, DayRehearsals days, TimeProvider clock)
{
    private const int Tries = 4, MostLost = 100;

    /// <summary>The job that sends a controller.</summary>
    public static JobKind<SendOrder> SendJob { get; } = new("send", (services, who, order) =>
        new JobWork(job => Make(services).Send(order, who, job)));

    /// <summary>The job that sets one up.</summary>
    public static JobKind<SetUpOrder> SetUpJob { get; } = new("setUp", (services, who, order) =>
        new JobWork(job => Make(services).SetUp(order, who, job), "What it ran before, it runs; resume to go on from there."));

    private static Sending Make(IServiceProvider services) => new(services.GetRequiredService<Workspace>(), services.GetRequiredService<IVirtualSite>(), services.GetRequiredService<Contacts>(), services.GetRequiredService<DayRehearsals>(), services.GetRequiredService<TimeProvider>());

    /// <summary>Under which it is kept what was sent to a host last, by its hash.</summary>
    public static string SentKey(RecordId host) => $"sent/{host}";

    /// <summary>Called while a controller starts, to move the site on where nothing else does.</summary>
    public Action? Waiting { get; init; }

    /// <summary>Sends what is designed.</summary>
    public async Task<string> Send(SendOrder order, string who, JobContext job)
    {
        ProjectRecord host = workspace.Project.Find(order.ControllerId) ?? throw new InvalidOperationException("The controller is not in the project any more.");
        using IDisposable turn = await contacts.Turn(host, () => job.Report(0, 1, $"Waiting for the send to {host.Name} that is under way"), job.Stop);
        job.Report(0, 1, $"Connecting to {host.Name}");
        ContactClient client = await contacts.Open(host, job.Stop);
        try
        {
            if (order.Build)
            {
                job.Report(0, 1, $"Building what {host.Name} is wired to");
                SiteBuilding.BuildFor(workspace.Project, host, site, who);
            }
            DeviceReport before = await client.Report();
            bool runs = before.Standing.Phase != DevicePhase.Stopped;
            if (host is Controller controller && controller.Address is not null) await client.Configure(SettingsOf(controller));
            (client, int version) = await Transfer(client, host, who, runs, job);
            // Whoever stopped a program may be working at what it drives: a send starts nothing there.
            return runs ? $"{host.Name} runs version {version}." : $"{host.Name} has version {version}, and its program is stopped. Let it go on from its state when that is safe.";
        }
        finally
        {
            await client.DisposeAsync();
        }
    }

    /// <summary>Sets a controller up: its credentials, what it is, its clock, its parts; at the end it proves that it runs.</summary>
    public async Task<string> SetUp(SetUpOrder order, string who, JobContext job)
    {
        ProjectRecord host = workspace.Project.Find(order.ControllerId) ?? throw new InvalidOperationException("The controller is not in the project any more.");
        using IDisposable claim = contacts.Claim(order.Serial, host);
        using IDisposable turn = await contacts.Turn(host, () => job.Report(0, 1, $"Waiting for the send to {host.Name} that is under way"), job.Stop);
        job.Report(0, 1, $"Connecting to {order.Serial}");
        var place = new ContactPlace(order.Host, order.Port);
        ContactClient client = await ContactClient.Connect(place, order.Fingerprint, job.Stop);
        try
        {
            DeviceIdentity identity = await client.Identify();
            if (identity.Serial != order.Serial) throw new InvalidOperationException($"At {place} is {identity.Serial}, not {order.Serial}. Look again at what answers; nothing was written.");
            if (host is Controller designed && identity.ModelId != designed.ModelId) throw new InvalidOperationException($"{order.Serial} is a {identity.ModelId}, and {host.Name} is designed as {designed.ModelId}. Nothing was written.");
            client = await Credentials(client, host, order, identity, who, job);
            if (host is Controller { Address: null } open)
            {
                job.Report(0, 1, "Giving it an address");
                GiveAddress(open, who);
                host = workspace.Project.Find(order.ControllerId)!;
            }
            if (host is Controller controller) await client.Configure(SettingsOf(controller));
            KeptContact kept = contacts.Find(host.Id)!;
            long now = site.Clock().Now;
            ClockAnswer answer = await client.SetClock(now);
            contacts.Remember(host.Id, kept with { ClockAt = now, ClockOffset = answer.After - now, ClockDrift = null });
            if (order.Build)
            {
                job.Report(0, 1, $"Building what {host.Name} is wired to");
                SiteBuilding.BuildFor(workspace.Project, host, site, who);
            }
            (client, int version) = await Transfer(client, host, who, order.StartsNow, job);
            contacts.Remember(host.Id, contacts.Find(host.Id)! with { SetUpAt = clock.GetUtcNow().ToUnixTimeMilliseconds(), SetUpBy = who });
            site.Trail(who, $"Set up {host.Name} as {order.Serial}", host.Id);
            return order.StartsNow ? $"{host.Name} is set up and runs version {version}: what it says it runs is what was designed." : $"{host.Name} is set up with version {version}. Its program stands until somebody lets it go on.";
        }
        finally
        {
            await client.DisposeAsync();
        }
    }

    // New credentials are tried on a connection of their own before the factory's are taken away: who typed wrong is not locked out.
    private async Task<ContactClient> Credentials(ContactClient client, ProjectRecord host, SetUpOrder order, DeviceIdentity identity, string who, JobContext job)
    {
        DeviceSecrets? typed = contacts.Typed(host.Id);
        KeptContact? kept = contacts.Find(host.Id);
        KeptContact Met(DeviceSecrets secrets) => new(host.Id.Value, order.Serial, order.Host, order.Port, order.Fingerprint, secrets.Accounts[0].Name, secrets.Accounts.Count > 1 ? secrets.Accounts[1].Name : null, null, who);
        if (!identity.IsFactory)
        {
            DeviceSecrets known = await Known(client, kept?.Fingerprint == order.Fingerprint ? contacts.SecretsOf(host.Id) : null, typed) ?? throw new InvalidOperationException($"{order.Serial} has credentials of its own. Type them on the sheet; nothing was written.");
            // A passphrase that is not its would be noticed only when something is read back, perhaps years later.
            if (known == typed && (await client.Report()).Version > 0) await client.ReadBack(known.Passphrase);
            contacts.Remember(host.Id, kept is not null && kept.Fingerprint == order.Fingerprint ? kept with { Serial = order.Serial, Host = order.Host, Port = order.Port, Account = known.Accounts[0].Name } : Met(known), known);
            return client;
        }
        DeviceSecrets secrets = typed ?? (kept?.Fingerprint == order.Fingerprint ? contacts.SecretsOf(host.Id) : null) ?? throw new InvalidOperationException("The credentials that were typed are not here any more, since the program has ended meanwhile. Type them again on the sheet; the controller still has the factory's.");
        job.Report(0, 1, "Giving it credentials of its own");
        await client.SignIn(DeviceAccount.Factory);
        await client.Renew(secrets);
        // All of them are tried, the first last, which then stays signed in and confirms.
        ContactClient fresh = client;
        foreach (DeviceAccount account in secrets.Accounts.Reverse())
        {
            await fresh.DisposeAsync();
            fresh = await ContactClient.Connect(new ContactPlace(order.Host, order.Port), order.Fingerprint, job.Stop);
            await fresh.SignIn(account);
        }
        // Kept before they hold: whatever breaks in between, whoever comes back has what opens it.
        contacts.Remember(host.Id, Met(secrets), secrets);
        await fresh.Confirm();
        return fresh;
    }

    /// <summary>Signs in with what is kept; where that opens it no more, or nothing is kept, with what was typed. Several that are set up together may be typed one thing and have another.</summary>
    private static async Task<DeviceSecrets?> Known(ContactClient client, DeviceSecrets? kept, DeviceSecrets? typed)
    {
        if (kept is not null)
        {
            try
            {
                await client.SignIn(kept.Accounts[0]);
                return kept;
            }
            catch (InvalidOperationException) when (typed is not null)
            {
                // What was typed may open it.
            }
        }
        if (typed is not null) await client.SignIn(typed.Accounts[0]);
        return typed;
    }

    private void GiveAddress(Controller controller, string who)
    {
        for (int attempt = 0; ; attempt++)
        {
            Project project = workspace.Project;
            var free = NetworkSettings.NextFree(project) ?? throw new InvalidOperationException($"The network of the other controllers is full. Give {controller.Name} an address in another.");
            Controller now = project.Find<Controller>(controller.Id)!;
            if (now.Address is not null) return;
            ChangeOutcome outcome = workspace.Apply([Edit.Of(now with { Address = free.Address, PrefixLength = free.Prefix, Router = free.Router }, project.FindEntry(now.Id)!.Revision)], who, $"Gave {now.Name} the address {free.Address}");
            if (outcome.Accepted) return;
            if (attempt > 50) throw new InvalidOperationException($"{controller.Name} could not be given an address: {string.Join(" ", outcome.Refusals.Select(r => r.Sentence))}");
        }
    }

    private static DeviceSettings SettingsOf(Controller c) => new(c.Name, c.Address!, c.PrefixLength, c.Router, c.StartsAfterPower);

    /// <summary>Transfers what the plan says, lets the controller change over, and waits until it proves that it has.</summary>
    private async Task<(ContactClient Client, int Version)> Transfer(ContactClient client, ProjectRecord host, string who, bool starts, JobContext job)
    {
        // Asked again here, since work that was interrupted may go on with another design than it began with.
        if (days.MustLive(host) is { } why) throw new InvalidOperationException(why);
        var (parts, troubles, application, memory) = contacts.Design(host);
        if (troubles.Count > 0) throw new InvalidOperationException(string.Join(" ", troubles));
        DeviceReport report = await client.Report();
        SendPlan plan = SendPlan.Of(parts, troubles, report.Parts, memory, Contacts.QualityOf(contacts.Find(host.Id)), Contacts.PieceBytes);
        var going = plan.Lines.Where(l => l.Goes).Select(l => parts.First(p => p.Key == l.Key)).ToList();
        if (going.Count == 0) return (client, report.Version);
        int total = (int)(plan.Bytes / 1024) + 1;
        long sent = 0, took = 0;
        foreach (ImagePart part in going)
        {
            byte[] bytes = contacts.BytesOf(host, part, application);
            var offer = new PartOffer(part.Key, part.Layer, part.Version, part.Hash, bytes.Length);
            int tries = 0;
            for (int offset = -1; offset < bytes.Length;)
            {
                try
                {
                    if (offset < 0) offset = await client.Begin(offer);
                    job.Report((int)(sent / 1024), total, $"{part.Name} {part.Version}: {offset / 1024:N0} of {Math.Max(1, bytes.Length / 1024):N0} kB are on {host.Name}; {(report.Version > 0 ? "the old program runs on" : "it runs nothing yet")}");
                    int length = Math.Min(Contacts.PieceBytes, bytes.Length - offset);
                    long began = Stopwatch.GetTimestamp();
                    if (length > 0) await client.Piece(part.Key, offset, bytes.AsMemory(offset, length));
                    took += Stopwatch.GetTimestamp() - began;
                    offset += length;
                    sent += length;
                    tries = 0;
                }
                catch (ContactLostException) when (++tries < Tries)
                {
                    // A connection that breaks off now and then is taken up again, from where the controller says it is.
                    job.Report((int)(sent / 1024), total, $"The connection to {host.Name} broke off; trying again");
                    await client.DisposeAsync();
                    await Task.Delay(contacts.Patience * tries, job.Stop);
                    client = await contacts.Open(host, job.Stop);
                    offset = -1;
                }
            }
        }
        if (sent > 128 * 1024 && contacts.Find(host.Id) is { } contact) contacts.Remember(host.Id, contact with { KilobitsPerSecond = Math.Round(sent * 8 / 1000.0 / Math.Max(0.001, took / (double)Stopwatch.Frequency)), RoundTripMilliseconds = 0 });
        job.Report(total - 1, total, "Changing over");
        try
        {
            await client.Activate(new ActivateOrder(who, host.Name, [.. going.Where(p => p.Layer != PartLayer.Application).Select(p => p.Key)], starts));
        }
        catch (ContactLostException)
        {
            // It has taken the order or it has not: it is asked what it runs.
        }
        var proven = await Proof(client, host, parts, plan.Restarts, total, job);
        contacts.Store.Set(SentKey(host.Id), parts[^1].Hash);
        return proven;
    }

    /// <summary>Waits until a controller has started and has run for a moment, and is what was sent to it.</summary>
    private async Task<(ContactClient Client, int Version)> Proof(ContactClient client, ProjectRecord host, IReadOnlyList<ImagePart> sent, bool restarts, int total, JobContext job)
    {
        long from = site.Clock().Now, last = from;
        int standing = 0, lost = 0;
        while (true)
        {
            ClockView at = site.Clock();
            standing = at.Now == last ? standing + 1 : 0;
            last = at.Now;
            string says = restarts ? $"{host.Name} starts; that takes up to {DeviceLife.StartSeconds.Most:0} s of site time" : $"{host.Name} shows that it runs";
            job.Report(total - 1, total, at.Running || Waiting is not null ? says : $"{says}. The site clock is paused: let it run");
            try
            {
                DeviceReport report = await client.Report();
                if (report.Trouble is { } trouble) throw new InvalidOperationException($"{host.Name} did not take it: {trouble}.");
                bool isUp = report.Standing.Phase is DevicePhase.Running or DevicePhase.Stopped;
                // It has run for two seconds of site time, or the site stands still and it will show later.
                if (isUp && (report.Standing.Phase == DevicePhase.Stopped || last - Math.Max(from, report.Standing.StartedAt) >= 2000 || (!at.Running && Waiting is null)))
                {
                    if (sent.Any(p => report.Parts.FirstOrDefault(r => r.Key == p.Key)?.Hash != p.Hash)) throw new InvalidOperationException($"{host.Name} has not taken what was sent; it runs what it ran before. Send again.");
                    return (client, report.Version);
                }
            }
            catch (ContactLostException)
            {
                await client.DisposeAsync();
                client = await Again(client, host, job);
                if (++lost > MostLost && last - from > DeviceLife.StartSeconds.Most * 10_000) throw new InvalidOperationException($"{host.Name} has not answered since it was told to change over. See whether it has its supply and its connection; then resume.");
            }
            Waiting?.Invoke();
            if (Waiting is null) await Task.Delay(standing > 40 ? 500 : 100, job.Stop);
        }
    }

    private async Task<ContactClient> Again(ContactClient closed, ProjectRecord host, JobContext job)
    {
        try
        {
            return await contacts.Open(host, job.Stop, whereItWas: true);
        }
        catch (ContactLostException)
        {
            return closed;
        }
    }
}
