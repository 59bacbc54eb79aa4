using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Images;

/// <summary>The layers of what a controller runs, each on the one before.</summary>
public enum PartLayer
{
    /// <summary>Starts whatever else there is.</summary>
    Loader,
    /// <summary>The software parts.</summary>
    Runtime,
    /// <summary>The project's records.</summary>
    Application,
}

/// <summary>A part as it is designed: with its size in bytes, why it is there, and whether something needs it.</summary>
public sealed record ImagePart(string Key, string Name, PartLayer Layer, string Version, string Hash, int Bytes, string Why, bool IsNeeded);

/// <summary>A part as it is installed.</summary>
public sealed record InstalledPart(string Key, PartLayer Layer, string Version, string Hash, int Bytes);

/// <summary>The parts of an image: loader, software parts, application.</summary>
public static class ImageParts
{
    /// <summary>The keys of the two parts that every controller has.</summary>
    public const string Loader = "loader", Application = "application";

    /// <summary>What the loader takes, kB.</summary>
    public const int LoaderKilobytes = 256;

    /// <summary>All parts that a controller is to have, in the order in which they are transferred; and what cannot be.</summary>
    public static (IReadOnlyList<ImagePart> Parts, IReadOnlyList<string> Troubles) Of(HardwareModel model, Controller controller, IHostImage image, ReadOnlySpan<byte> application)
    {
        SoftwareParts software = SoftwareParts.Of(model, controller, image);
        string hash = HostKinds.HashOf(application);
        int kilobytes = software.Kilobytes + LoaderKilobytes + ((application.Length + 1023) / 1024);
        List<string> troubles = [.. software.Troubles];
        if (model.MemoryKilobytes > 0 && kilobytes > model.MemoryKilobytes) troubles.Add($"The parts of {controller.Name} take {kilobytes:N0} kB and {model.Name} has {model.MemoryKilobytes:N0} kB. Leave out parts by choice, move records to another controller, or choose a larger model.");
        return ([
            new ImagePart(Loader, "Loader", PartLayer.Loader, model.Loader, Firmware.HashOf(model.Id, Loader, model.Loader, LoaderKilobytes), LoaderKilobytes * 1024, "starts all the others", true),
            .. software.Parts.Select(p => new ImagePart(p.Part.Key, p.Part.Name, PartLayer.Runtime, p.Version, Firmware.HashOf(model.Id, p.Part.Key, p.Version, p.Part.Kilobytes), p.Part.Kilobytes * 1024, p.Why, p.IsNeeded)),
            new ImagePart(Application, "Application", PartLayer.Application, hash[..8], hash, application.Length, $"{image.Records.Count} records of the project", true),
        ], troubles);
    }
}

/// <summary>What is said at the head of loader and software parts: for which model, which part, in which version.</summary>
public sealed record FirmwareHead(string Model, string Part, string Version);

/// <summary>
/// Loader and software parts as bytes. The virtual site's controllers run no machine code: what is transferred is a head that
/// says what the part is, and filling of the part's size, the same on every machine, so that times and hashes are real.
/// </summary>
public static class Firmware
{
    private static readonly ConcurrentDictionary<(string, string, string, int), string> Hashes = new();

    /// <summary>The bytes of a part.</summary>
    public static byte[] Bytes(string model, string part, string version, int kilobytes)
    {
        byte[] bytes = new byte[kilobytes * 1024];
        int at = Encoding.UTF8.GetBytes(JsonSerializer.Serialize(new FirmwareHead(model, part, version), RecordJson.Options) + "\n", bytes);
        // Marsaglia's xorshift64, so that nothing on the way can make it smaller.
        ulong state = 0x9E3779B97F4A7C15 ^ (ulong)kilobytes;
        foreach (byte b in bytes.AsSpan(0, at)) state = (state ^ b) * 1099511628211;
        for (; at + 8 <= bytes.Length; at += 8)
        {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            BitConverter.TryWriteBytes(bytes.AsSpan(at), state);
        }
        return bytes;
    }

    /// <summary>The hash of a part's bytes.</summary>
    public static string HashOf(string model, string part, string version, int kilobytes) => Hashes.GetOrAdd((model, part, version, kilobytes), k => HostKinds.HashOf(Bytes(k.Item1, k.Item2, k.Item3, k.Item4)));

    /// <summary>What bytes say at their head, or null where they are no such part.</summary>
    public static FirmwareHead? HeadOf(ReadOnlySpan<byte> bytes)
    {
        int end = bytes[..Math.Min(bytes.Length, 1024)].IndexOf((byte)'\n');
        if (end < 0) return null;
        try
        {
            return JsonSerializer.Deserialize<FirmwareHead>(bytes[..end], RecordJson.Options);
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
