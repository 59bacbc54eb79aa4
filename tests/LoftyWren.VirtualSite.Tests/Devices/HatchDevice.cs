using System.Runtime.CompilerServices;
using System.Text.Json;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Images;
using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Tests.Records;
using LoftyWren.VirtualSite.Media;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>The image of a smoke hatch: itself, and the point it holds, which has the hatch's own id.</summary>
public sealed record HatchImage(Hatch Hatch) : IHostImage
{
    public ProjectRecord Host => Hatch;

    public IReadOnlyList<ProjectRecord> Records => [];

    public IReadOnlyList<ImageFact> Facts => [];

    public byte[] ToBytes() => JsonSerializer.SerializeToUtf8Bytes<ProjectRecord>(Hatch, RecordJson.Options);
}

public sealed class HatchImages : IImageBuilder
{
    public string Key => "hatch";

    public Type Host => typeof(Hatch);

    public IHostImage Build(Project project, ProjectRecord host) => new HatchImage((Hatch)host);

    public IHostImage Read(ReadOnlySpan<byte> bytes) => new HatchImage((Hatch)JsonSerializer.Deserialize<ProjectRecord>(bytes, RecordJson.Options)!);

    public IDeviceProgram Start(IHostImage image) => new HatchProgram((HatchImage)image);
}

/// <summary>What a hatch remembers: how often it has been waved at, whether its flag is up, when it ran last and when it is due (ms of site time).</summary>
public sealed record HatchMemory(int Waves, bool IsUp, long Ran, long Due);

/// <summary>A device that only tests know: it waves every so many seconds as its address says, and counts what is waved at it.</summary>
public sealed class HatchProgram : IDeviceProgram
{
    private readonly FlagPort _flags = new();
    private long _now;

    public HatchProgram(HatchImage image)
    {
        Image = image;
        Ports = [_flags];
        _flags.Waved = _ => Waves++;
    }

    /// <summary>The address of a hatch whose program fails whenever it runs.</summary>
    public const int Jams = 99;

    public int Waves { get; private set; }

    public IHostImage Image { get; }

    public IReadOnlyList<IDevicePort> Ports { get; }

    public long NextDue { get; private set; } = long.MinValue;

    private int Address => ((HatchImage)Image).Hatch.Address;

    public void Run(long now)
    {
        if (Address == Jams) throw new InvalidOperationException("The hatch is jammed.");
        (_now, NextDue) = (now, now + (Address * 1000));
        _flags.IsUp = true;
    }

    public object Remember(IReadOnlyDictionary<RecordId, long>? collected = null) => new HatchMemory(Waves, _flags.IsUp, _now, NextDue);

    public Type MemoryType => typeof(HatchMemory);

    public void Recall(object memory, Resumption how)
    {
        var kept = (HatchMemory)memory;
        (Waves, _flags.IsUp, _now, NextDue) = (kept.Waves, kept.IsUp, kept.Ran, how == Resumption.GoesOn ? kept.Due : long.MinValue);
    }

    public IEnumerable<RecordId> Home => [Image.Host.Id];

    public Reading? Read(RecordId pointId) => pointId == Image.Host.Id ? new Reading(Waves, StatusFlags.None, _now) : null;

    public ILiveSource? Watch(RecordId recordId, string part) => recordId == Image.Host.Id && part.Length == 0 ? new Live(this) : null;

    public Because? Explain(RecordId recordId) => recordId == Image.Host.Id ? Because.Of($"{Image.Host.Name} was waved at {Waves} times.", [recordId]) : null;

    private sealed class Live(HatchProgram program) : ILiveSource
    {
        public ValueForm Form { get; } = new(PointKind.Analog, null, []);

        public Reading Read() => program.Read(program.Image.Host.Id)!.Value;
    }
}

/// <summary>A flag that is put up, and an eye for those of others.</summary>
public sealed class FlagPort : IDevicePort
{
    public string Medium => FlagMedium.Name;

    public bool IsUp { get; set; }

    public Action<long> Waved { get; set; } = _ => { };
}

/// <summary>A medium that only tests know: a flag put up is seen by all others 1.5 s later.</summary>
public sealed class FlagMedium : IMedium
{
    public const string Name = "flags";
    private readonly SortedDictionary<RecordId, FlagPort> _ports = [];
    private List<FlagSeen> _seen = [];

    public string Key => Name;

    public long NextDue => _seen.Count == 0 ? long.MaxValue : _seen[0].At;

    public void Run(long now, Action<RecordId> came)
    {
        while (NextDue <= now)
        {
            FlagSeen seen = _seen[0];
            _seen.RemoveAt(0);
            foreach (var (host, port) in _ports)
            {
                if (host == seen.By) continue;
                port.Waved(seen.At);
                came(host);
            }
        }
    }

    public IConnection Connect(RecordId host, IDevicePort port)
    {
        _ports[host] = (FlagPort)port;
        return new Connection(this, host, (FlagPort)port);
    }

    public void Disconnect(RecordId host) => _ports.Remove(host);

    public IEnumerable<(RecordId, RecordId)> Pairs() => _ports.Keys.SelectMany(a => _ports.Keys.Select(b => (a, b)));

    public Func<object?> Remember()
    {
        FlagSeen[] seen = [.. _seen];
        return () => seen.ToList();
    }

    public Type MemoryType => typeof(List<FlagSeen>);

    public void Recall(object? memory) => _seen = memory as List<FlagSeen> ?? [];

    public sealed record FlagSeen(long At, RecordId By);

    private sealed class Connection(FlagMedium medium, RecordId host, FlagPort port) : IConnection
    {
        public void BeforeRun(long now)
        {
        }

        public void AfterRun(long now)
        {
            if (!port.IsUp) return;
            port.IsUp = false;
            medium._seen.Add(new FlagSeen(now + 1500, host));
            medium._seen.Sort((a, b) => (a.At, a.By.Value).CompareTo((b.At, b.By.Value)));
        }
    }
}

internal static class HatchRegistration
{
    [ModuleInitializer]
    internal static void Register()
    {
        HostKinds.Register(new HatchImages());
        MediumKinds.Register(_ => new FlagMedium());
    }
}
