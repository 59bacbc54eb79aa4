using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;

namespace LoftyWren.Core.Commissioning;

/// <summary>How fast and how well a connection carries: kbit/s, the share of frames that have to be sent again in percent, and the time to an answer in ms.</summary>
public sealed record LinkQuality(double KilobitsPerSecond, double LossPercent, double RoundTripMilliseconds)
{
    /// <summary>How long bytes take in pieces, s.</summary>
    public double SecondsFor(long bytes, int pieceBytes)
    {
        if (bytes == 0) return 0;
        double pieces = Math.Ceiling(bytes / (double)pieceBytes), again = 1 / Math.Max(0.01, 1 - (LossPercent / 100));
        return ((bytes * 8 / Math.Max(1, KilobitsPerSecond * 1000)) + (pieces * RoundTripMilliseconds / 1000)) * again;
    }
}

/// <summary>One part of a plan: what is designed, in which version it is there (null: not at all), whether it is transferred, and why or why not.</summary>
public sealed record PlanLine(string Key, string Name, PartLayer Layer, string Version, string? Had, int Bytes, bool Goes, bool IsNeeded, string Why);

/// <summary>
/// What a send transfers: part by part with its reason, in bytes and in time, and how the controller starts afterwards.
/// </summary>
/// <param name="Lines">The parts, in the order in which they go.</param>
/// <param name="Bytes">What goes, bytes.</param>
/// <param name="Seconds">About how long that takes over the connection.</param>
/// <param name="Restarts">Whether the controller starts again afterwards; otherwise it changes over between two scans.</param>
/// <param name="StartSeconds">How long a start takes at most, s.</param>
/// <param name="MemoryKilobytes">What the model has, kB; 0 where that is not told.</param>
/// <param name="UsedKilobytes">What it has in use afterwards, kB.</param>
/// <param name="Troubles">Why it cannot be sent so, each in a sentence.</param>
public sealed record SendPlan(IReadOnlyList<PlanLine> Lines, long Bytes, double Seconds, bool Restarts, double StartSeconds, int MemoryKilobytes, int UsedKilobytes, IReadOnlyList<string> Troubles)
{
    /// <summary>
    /// Works out what goes: a part that is missing or another; a new loader takes everything with it, a new runtime the loader
    /// and everything on it, a part that is new takes the application, which is made ready with the parts it runs on.
    /// </summary>
    public static SendPlan Of(IReadOnlyList<ImagePart> design, IReadOnlyList<string> troubles, IReadOnlyList<InstalledPart> installed, int memoryKilobytes, LinkQuality link, int pieceBytes)
    {
        var there = installed.ToDictionary(p => p.Key);
        bool Differs(ImagePart part) => !there.TryGetValue(part.Key, out InstalledPart? had) || had.Hash != part.Hash;
        bool IsOtherVersion(ImagePart part) => there.TryGetValue(part.Key, out InstalledPart? had) && had.Version != part.Version;
        bool isLoader = design.Any(p => p.Layer == PartLayer.Loader && Differs(p)), isRuntime = design.Any(p => p.Layer == PartLayer.Runtime && IsOtherVersion(p));
        bool hasParts = design.Any(p => p.Layer == PartLayer.Runtime && Differs(p));
        var lines = new List<PlanLine>();
        foreach (ImagePart part in design)
        {
            string? had = there.GetValueOrDefault(part.Key)?.Version;
            string? goes = (part, Differs(part)) switch
            {
                (_, true) when had is null => $"not there yet: {part.Why}",
                ({ Layer: PartLayer.Application }, true) => "the design is another than what runs",
                (_, true) when had != part.Version => $"version {had} is there",
                (_, true) => "what is there is another of the same version",
                _ when isLoader => "a new loader takes everything with it",
                _ when isRuntime => "a new version of the runtime takes the loader and everything on it",
                ({ Layer: PartLayer.Application }, _) when hasParts => "it is made ready with the parts it runs on",
                _ => null,
            };
            lines.Add(new PlanLine(part.Key, part.Name, part.Layer, part.Version, had, part.Bytes, goes is not null, part.IsNeeded, goes ?? $"the same is there: {part.Why}"));
        }
        var wanted = design.Select(p => p.Key).ToHashSet();
        lines.AddRange(installed.Where(p => !wanted.Contains(p.Key)).Select(p => new PlanLine(p.Key, p.Key, p.Layer, p.Version, p.Version, p.Bytes, false, false, "nothing needs it any more; it stays until the runtime is another")));
        long bytes = lines.Where(l => l.Goes).Sum(l => (long)l.Bytes);
        int used = (int)((lines.Sum(l => (long)l.Bytes) + 1023) / 1024);
        return new SendPlan(lines, bytes, Math.Round(link.SecondsFor(bytes, pieceBytes), 1), lines.Any(l => l.Goes && l.Layer != PartLayer.Application), DeviceLife.StartSeconds.Most, memoryKilobytes, used, troubles);
    }
}
