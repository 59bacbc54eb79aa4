using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;

namespace LoftyWren.VirtualSite.Media;

/// <summary>
/// What carries something between devices, or between a device and the plant. It brings what is due at its time, in ms of
/// site time, and the same things said at the same times always come to the same.
/// </summary>
public interface IMedium
{
    /// <summary>By which ports name it.</summary>
    string Key { get; }

    /// <summary>When it brings something next; <see cref="long.MaxValue"/> while nothing is on its way.</summary>
    long NextDue { get; }

    /// <summary>Brings what is due; answers with a call for each device that something came to.</summary>
    void Run(long now, Action<RecordId> came);

    /// <summary>Connects a port of a device, in place of what it had; answers what is done around each of its runs.</summary>
    IConnection Connect(RecordId host, IDevicePort port);

    /// <summary>Takes a device off.</summary>
    void Disconnect(RecordId host);

    /// <summary>Pairs of devices that may notice each other's doings over it, besides by the plant's own steps; the others need not be run in turn.</summary>
    IEnumerable<(RecordId, RecordId)> Pairs();

    /// <summary>Devices to which it brings things at moments of its own, so that they are run in turn even where no other device is with them.</summary>
    IEnumerable<RecordId> Met() => [];

    /// <summary>Takes a copy of what is on its way, quickly; answers what makes of it, later and outside of any turn, something fit to be written as JSON, or null for nothing.</summary>
    Func<object?> Remember();

    /// <summary>The type of what that makes.</summary>
    Type MemoryType { get; }

    /// <summary>Takes up what was on its way.</summary>
    void Recall(object? memory);
}

/// <summary>A port on its medium.</summary>
public interface IConnection
{
    /// <summary>Before the device runs: what it measures is brought to it.</summary>
    void BeforeRun(long now);

    /// <summary>After the device has run, or has heard something: what it gives or says is taken away.</summary>
    void AfterRun(long now);
}

/// <summary>The registry of media that a site has.</summary>
public static class MediumKinds
{
    private static Func<Site, IMedium>[] _all = [site => new Wires(site), site => new Bus.BusMedium(site), .. LineSort.All.Select(sort => (Func<Site, IMedium>)(site => new Line(sort, site)))];

    /// <summary>Adds a medium: what makes it for a site.</summary>
    public static void Register(Func<Site, IMedium> make)
    {
        lock (typeof(MediumKinds)) _all = [.. _all, make];
    }

    internal static IMedium[] MakeAll(Site site) => [.. _all.Select(make => make(site))];
}
