using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Commissioning;

namespace LoftyWren.Server.Commissioning;

/// <summary>Controllers to be compared; none for all that were set up.</summary>
internal sealed record CompareOrder(IReadOnlyList<RecordId> Hosts);

/// <summary>
/// What runs read back from controllers and compared with the design, one after the other, whenever somebody wants it and by
/// itself every so many hours; and their clocks looked at and set.
/// </summary>
public sealed class Comparing(Workspace workspace, IVirtualSite site, Contacts contacts, ImageCache images, ILogger log) : IDisposable
{
    /// <summary>How often all are compared where nobody says otherwise, h of site time; 0 for never.</summary>
    public const int UsualHours = 24;

    private const string HoursKey = "compareHours";
    private const long Hour = 3_600_000;
    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(20);
    private readonly CancellationTokenSource _stop = new();
    private Task _watch = Task.CompletedTask;

    /// <summary>The job that compares several.</summary>
    internal static JobKind<CompareOrder> CompareJob { get; } = new("compare", (services, who, order) => new JobWork(async job =>
    {
        var comparing = services.GetRequiredService<Comparing>();
        Project project = services.GetRequiredService<Workspace>().Project;
        List<ProjectRecord> hosts = [.. comparing.Hosts().Where(h => order.Hosts.Count == 0 || order.Hosts.Contains(h.Id))];
        int done = 0, drifted = 0;
        foreach (ProjectRecord host in hosts)
        {
            job.Report(done++, hosts.Count, $"Reading {host.Name} back");
            if ((await comparing.Compare(host, job.Stop)).Changes != 0) drifted++;
        }
        return $"{hosts.Count} compared; {(drifted == 0 ? "all run the design" : $"{drifted} run something else or did not answer")}.";
    }, "What was compared is kept; resume to compare all again."));

    /// <summary>How often all are compared by themselves, h of site time; 0 for never.</summary>
    public int Hours
    {
        get => int.TryParse(contacts.Store.Setting(HoursKey), out int hours) ? hours : UsualHours;
        set => contacts.Store.Set(HoursKey, $"{value}");
    }

    /// <summary>The things of the project that were set up.</summary>
    public IEnumerable<ProjectRecord> Hosts() => contacts.Store.All().Where(c => c.SetUpAt is not null).Select(c => workspace.Project.Find(new RecordId(c.HostId))).OfType<ProjectRecord>().OrderBy(h => h.Name, Core.Names.NaturalOrder.Names);

    /// <summary>Reads one back and compares it with the design; what came of it is kept.</summary>
    public async Task<KeptComparison> Compare(ProjectRecord host, CancellationToken stop)
    {
        long now = site.Clock().Now;
        string design = images.Design(host.Id)?.Hash ?? "";
        KeptComparison kept;
        try
        {
            (IHostImage image, string hash) = await ReadBack(host, stop);
            int changes = hash == design ? 0 : ImageComparison.Compare(image, images.Design(host.Id)!.Image).Count;
            string? sent = contacts.Store.Setting(Sending.SentKey(host.Id));
            string sentence = changes == 0 ? "It runs the design."
                : sent is null || sent == hash ? $"The design has moved on since it was sent: {changes} record{(changes == 1 ? " differs" : "s differ")}."
                : $"What runs is not what was sent from here last: {changes} record{(changes == 1 ? " differs" : "s differ")} from the design. Somebody else has sent to it, or it went back to an older program.";
            kept = new KeptComparison(host.Id.Value, now, hash, design, changes, sentence);
        }
        catch (Exception e) when (e is InvalidOperationException or ContactLostException)
        {
            kept = new KeptComparison(host.Id.Value, now, "", design, -1, $"It could not be read back: {e.Message}");
        }
        contacts.Store.Add(kept);
        return kept;
    }

    /// <summary>Reads back what one runs, over its connection and with its passphrase.</summary>
    public async Task<(IHostImage Image, string Hash)> ReadBack(ProjectRecord host, CancellationToken stop)
    {
        await using ContactClient client = await contacts.Open(host, stop);
        byte[] bytes = await client.ReadBack(contacts.SecretsOf(host.Id)!.Passphrase);
        return (HostKinds.Of(host)!.Read(bytes), HostKinds.HashOf(bytes));
    }

    /// <summary>Sets the clock of one, and notes how far it was off and how far it goes wrong.</summary>
    public async Task SetClock(ProjectRecord host, CancellationToken stop)
    {
        await using ContactClient client = await contacts.Open(host, stop);
        long now = site.Clock().Now;
        ClockAnswer answer = await client.SetClock(now);
        if (contacts.Find(host.Id) is not { } kept) return;
        long off = answer.Before - now;
        double? drift = kept.ClockAt is { } before && now - before >= Hour / 2 ? Math.Round(off / 1000.0 / ((now - before) / 86_400_000.0), 2) : kept.ClockDrift;
        contacts.Remember(host.Id, kept with { ClockAt = now, ClockOffset = off, ClockDrift = drift });
    }

    /// <summary>Looks after clocks and comparisons by itself from now on.</summary>
    public void Start() => _watch = Task.Run(Watch);

    private async Task Watch()
    {
        using var timer = new PeriodicTimer(Beat);
        try
        {
            while (await timer.WaitForNextTickAsync(_stop.Token)) await Look(_stop.Token);
        }
        catch (OperationCanceledException)
        {
            // The project is closed.
        }
    }

    /// <summary>Sets the clocks that were not looked at for an hour of site time, and compares those whose turn it is.</summary>
    public async Task Look(CancellationToken stop)
    {
        try
        {
            long now = site.Clock().Now;
            int hours = Hours;
            var compared = contacts.Store.Comparisons(null).ToDictionary(c => c.HostId, c => c.At);
            foreach (ProjectRecord host in Hosts())
            {
                if (contacts.Find(host.Id) is not { } kept) continue;
                if (now - (kept.ClockAt ?? 0) >= Hour) await Quietly(() => SetClock(host, stop));
                if (hours > 0 && now - compared.GetValueOrDefault(host.Id.Value, kept.ClockAt is null ? now : 0) >= hours * Hour) await Compare(host, stop);
            }
        }
        catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
        {
            log.LogWarning("Clocks and comparisons could not be looked after: {Message}", e.Message);
        }
    }

    // Who does not answer is told elsewhere; his clock is set when he does.
    private static async Task Quietly(Func<Task> act)
    {
        try
        {
            await act();
        }
        catch (Exception e) when (e is InvalidOperationException or ContactLostException)
        {
            return;
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _stop.Cancel();
        _watch.Wait(TimeSpan.FromSeconds(3));
    }
}
