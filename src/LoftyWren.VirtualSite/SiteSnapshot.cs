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
    public Site Build() => ToCopy().Build();

    /// <summary>The same as data, with what each remembers written out.</summary>
    public SiteCopy ToCopy() => new(_plan, Now, _memory().ToBytes(),
        [.. _devices.Select(d => new DeviceCopy(d.Id, d.Kind, d.Image, d.Memory is null ? null : JsonSerializer.SerializeToUtf8Bytes(d.Memory, d.MemoryType!, RecordJson.Options), d.Door, d.Life, d.Version))]);
}

/// <summary>A device as it stood: what it runs and remembers as bytes, its door, its life.</summary>
public sealed record DeviceCopy(RecordId Id, string Kind, byte[]? Image, byte[]? Memory, DeviceDoor? Door, Core.Devices.DeviceLife Life, int Version);

/// <summary>A site as it stood, as data that can be sent, and built anew as often as wanted; none has a part of another.</summary>
public sealed record SiteCopy(SitePlan Plan, long Now, byte[] Memory, IReadOnlyList<DeviceCopy> Devices)
{
    /// <summary>The same without what nobody but the devices themselves is to know: certificates and accounts.</summary>
    public SiteCopy WithoutSecrets() => this with { Devices = [.. Devices.Select(d => d.Door is null ? d : d with { Door = d.Door with { Certificate = [], Accounts = [], Passphrase = null, PendingAccounts = null, PendingPassphrase = null } })] };

    /// <summary>A site that stands so and goes on by itself.</summary>
    public Site Build()
    {
        var site = new Site(Plan, Now);
        foreach (DeviceCopy each in Devices)
        {
            InstalledDevice device = site.Mount(each.Id, each.Kind);
            device.Door = each.Door;
            if (each.Image is not null) device.Restart(each.Image, each.Memory, Now, each.Version, "", 0);
            device.Revive(each.Life);
        }
        site.Recall(SiteMemory.FromBytes(Memory));
        return site;
    }
}
