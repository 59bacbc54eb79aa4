using System.Text.Json;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite;

/// <summary>A site as it stood at a moment, plant, media and devices with all they remember: taken within a turn, built anew as often as wanted outside of any.</summary>
public sealed class SiteSnapshot
{
    private readonly SitePlan _plan;
    private readonly Func<SiteMemory> _memory;
    private readonly List<(RecordId Id, string Kind, byte[]? Image, object? Memory, Type? MemoryType, DeviceDoor? Door, Core.Devices.DeviceLife Life, int Version)> _devices;

    private SiteSnapshot(Site site)
    {
        (_plan, _memory) = (site.Plan, site.Copy());
        _devices = [.. site.Devices.Values.Select(d => (d.Id, d.Kind, d.ImageBytes, d.Program?.Remember(), d.Program?.MemoryType, d.Door, d.Life, d.Version))];
        Now = site.Now;
    }

    /// <summary>Takes it.</summary>
    public static SiteSnapshot Of(Site site) => new(site);

    /// <summary>The moment, ms of site time.</summary>
    public long Now { get; }

    /// <summary>A site that stands so and goes on by itself.</summary>
    public Site Build()
    {
        var site = new Site(_plan, Now);
        foreach (var (id, kind, image, memory, type, door, life, version) in _devices)
        {
            InstalledDevice device = site.Mount(id, kind);
            device.Door = door;
            if (image is not null) device.Restart(image, memory is null ? null : JsonSerializer.SerializeToUtf8Bytes(memory, type!, RecordJson.Options), Now, version, "", 0);
            device.Revive(life);
        }
        // What was kept is read anew for each, so that none has a part of another.
        site.Recall(SiteMemory.FromBytes(_memory().ToBytes()));
        return site;
    }
}
