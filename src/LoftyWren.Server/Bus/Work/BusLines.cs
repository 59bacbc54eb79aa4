using System.Collections.Concurrent;
using System.Net;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Tunnel;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Bus.Work;

/// <summary>What is known of a device on its line since it was last looked at.</summary>
public enum BusState
{
    /// <summary>Nobody has looked yet.</summary>
    Unknown,
    /// <summary>It does not answer.</summary>
    Silent,
    /// <summary>It was never written.</summary>
    NotConfigured,
    /// <summary>The last write was interrupted; it runs what it had before.</summary>
    Interrupted,
    /// <summary>It has something else than is designed.</summary>
    Differs,
    /// <summary>It has what is designed.</summary>
    Same,
}

/// <summary>What was seen of a device, when (ms since 1970 UTC), and what it has, where that was written or read.</summary>
public sealed record BusSeen(BusState State, long At, DeviceHealth? Health = null, ApplicationImage? There = null);

/// <summary>What the devices of a project are to have, and how long writing all of it takes, s.</summary>
public sealed class BusDesign(Project project)
{
    private readonly FilterTables _tables = FilterTables.Of(project);
    private readonly ConcurrentDictionary<RecordId, (ApplicationImage? Image, double Seconds)> _of = new();

    /// <summary>The project.</summary>
    public Project Project => project;

    /// <summary>What a device is to have; null where the project has lost its description.</summary>
    public (ApplicationImage? Image, double Seconds) Of(BusDevice device) => _of.GetOrAdd(device.Id, _ =>
    {
        ApplicationImage? image = ApplicationImage.Of(project, device, _tables);
        return (image, image is null ? 0 : Math.Round(ApplicationTransfer.Of(image, null, device.DescriptionIn(project)!.Form).Seconds, 1));
    });
}

/// <summary>
/// The ways to the two-wire lines of a project: over an interface, which is one of the virtual site or one at an address. One
/// conversation at a time goes over each; a tunnel that nobody has used for a while is closed. What was last seen of each
/// device is remembered for as long as the program runs.
/// </summary>
public sealed class BusLines(Workspace workspace, IVirtualSite site, BusKeys keys, TimeProvider clock) : IDisposable
{
    private static readonly TimeSpan Idle = TimeSpan.FromSeconds(20);
    private readonly ConcurrentDictionary<string, Way> _ways = new();
    private readonly ConcurrentDictionary<RecordId, BusSeen> _seen = new();

    /// <summary>What came of reading a device back last.</summary>
    public ConcurrentDictionary<RecordId, BusCompared> Compared { get; } = new();

    private sealed class Way
    {
        public SemaphoreSlim Turn { get; } = new(1, 1);
        public TunnelClient? Tunnel;
        public BusManager? Manager;
        public long UsedAt;
    }

    /// <summary>What is known of a device.</summary>
    public BusSeen SeenOf(RecordId device) => _seen.GetValueOrDefault(device) ?? new BusSeen(BusState.Unknown, 0);

    /// <summary>Notes what was seen of a device.</summary>
    public void See(RecordId device, BusState state, DeviceHealth? health = null, ApplicationImage? there = null) =>
        _seen.AddOrUpdate(device, _ => new BusSeen(state, Now, health, there), (_, before) => new BusSeen(state, Now, health ?? before.Health, there ?? (state is BusState.Same or BusState.Differs ? before.There : null)));

    /// <summary>What is known of a device as the design is now: one that had what was designed may differ from it since.</summary>
    public BusSeen SeenOf(BusDevice device, BusDesign design)
    {
        BusSeen seen = SeenOf(device.Id);
        if (seen.There is not { } there || seen.State is not (BusState.Same or BusState.Differs) || design.Of(device) is not { Image: { } wanted }) return seen;
        return seen with { State = wanted.Equals(there) ? BusState.Same : BusState.Differs };
    }

    /// <summary>What all devices are to have as the project is now; worked out once for each state of the project, whoever asks.</summary>
    public BusDesign Design
    {
        get
        {
            Project project = workspace.Project;
            lock (_designing) return _design is { } known && ReferenceEquals(known.Project, project) ? known : _design = new BusDesign(project);
        }
    }

    private readonly Lock _designing = new();
    private BusDesign? _design;

    private long Now => clock.GetUtcNow().ToUnixTimeMilliseconds();

    /// <summary>Where the interface of a line is: of its own devices first, else one of another line, from which couplers lead there.</summary>
    /// <exception cref="InvalidOperationException">None leads there.</exception>
    public IPEndPoint InterfaceOf(RecordId line)
    {
        return Interfaces().OrderBy(i => i.Line != line).Select(i => i.At).FirstOrDefault() ?? throw new InvalidOperationException($"No interface leads to line {workspace.Project.Find<BusLine>(line)?.Written}. Put a bus-to-IP interface on it, then hang it on the virtual site, or say on its page where it is reached.");
    }

    /// <summary>Whether there is an interface at all: from one line couplers lead to every other.</summary>
    public bool HasInterface => Interfaces().Any();

    private IEnumerable<(RecordId Line, IPEndPoint At)> Interfaces()
    {
        Project project = workspace.Project;
        var gates = site.BusGates().ToDictionary(g => g.DeviceId, g => g.Port);
        foreach (BusDevice each in project.All<BusDevice>().Where(d => d.LineId is not null && d.DescriptionIn(project)?.Role == LineRole.Interface).OrderBy(d => d.Id))
        {
            if (each.ReachedAt is { } at && IPEndPoint.TryParse(at, out IPEndPoint? real)) yield return (each.LineId!.Value, real);
            else if (gates.TryGetValue(each.Id, out int port)) yield return (each.LineId!.Value, new IPEndPoint(IPAddress.Loopback, port));
        }
    }

    /// <summary>Has a conversation with devices of a line, after whoever has one now.</summary>
    /// <exception cref="InvalidOperationException">No interface leads there, or a device is silent or refuses; the message says which and what to do.</exception>
    public async Task<T> With<T>(RecordId line, Func<BusManager, Task<T>> work, CancellationToken stop)
    {
        IPEndPoint at = InterfaceOf(line);
        Way way = _ways.GetOrAdd(at.ToString(), _ => new Way());
        await way.Turn.WaitAsync(stop);
        try
        {
            if (way.Tunnel is null or { Closed: not null })
            {
                way.Tunnel = await TunnelClient.Connect(at, stop);
                way.Manager = new BusManager(way.Tunnel) { KeyOf = a => BusDevice.At(workspace.Project, a) is { IsSecured: true } device ? keys.Of(device.Id)?.Tool : null };
            }
            return await work(way.Manager!);
        }
        catch (TunnelLostException e)
        {
            throw new InvalidOperationException(site.Clock() is { Running: false } ? $"{e.Message} The clock of the virtual site stands still: let it run." : e.Message, e);
        }
        finally
        {
            way.UsedAt = clock.GetTimestamp();
            way.Turn.Release();
            _ = CloseIdle(way);
        }
    }

    /// <summary>Sees to it that a device can be spoken to as it is designed: one that is to be secured is, with the key that is kept for it; one that is not is not.</summary>
    /// <exception cref="BusRefusedException">Its certificate or the passphrase is missing, or it is secured by somebody else.</exception>
    public async Task Ready(BusManager manager, BusDevice device, IndividualAddress address, CancellationToken stop)
    {
        if (device.DescriptionIn(workspace.Project) is not { CanBeSecured: true }) return;
        bool isSecured = await manager.IsSecured(address, stop);
        if (!device.IsSecured)
        {
            if (isSecured) throw new BusRefusedException($"{address} is secured, and ‘{device.Name}’ is not by design. Say in its dossier that it is secured and give its certificate, or reset the device at its button.");
            return;
        }
        if (keys.State != VaultState.Open) throw new BusRefusedException($"‘{device.Name}’ is secured, and the keys are {(keys.State == VaultState.None ? "not there yet: give the project a passphrase" : "locked: give the project's passphrase")} under Commission › Bus devices.");
        if (keys.Of(device.Id) is not { } own) throw new BusRefusedException($"The certificate of ‘{device.Name}’ is not known. Read it from the sticker, under Commission › Bus devices.");
        if (!isSecured && !await manager.Secure(address, own.Certified, own.Tool, stop)) throw new BusRefusedException($"{address} does not take the certificate of ‘{device.Name}’. It is that of another device; read the sticker again.");
        if (isSecured) await manager.GoOnAbove(address, stop);
    }

    private async Task CloseIdle(Way way)
    {
        await Task.Delay(Idle);
        if (!await way.Turn.WaitAsync(0)) return;
        try
        {
            if (clock.GetElapsedTime(way.UsedAt) < Idle || way.Tunnel is not { } tunnel) return;
            (way.Tunnel, way.Manager) = (null, null);
            await tunnel.DisposeAsync();
        }
        finally
        {
            way.Turn.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (Way way in _ways.Values) way.Tunnel?.DisposeAsync().AsTask().Wait(TimeSpan.FromSeconds(1));
        _ways.Clear();
    }
}
