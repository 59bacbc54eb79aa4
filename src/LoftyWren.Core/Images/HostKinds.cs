using System.Security.Cryptography;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Images;

/// <summary>All that one installed thing runs.</summary>
public interface IHostImage
{
    /// <summary>What it is for: a controller, a device.</summary>
    ProjectRecord Host { get; }

    /// <summary>The records it runs, in the order of their ids.</summary>
    IReadOnlyList<ProjectRecord> Records { get; }

    /// <summary>What else is in it that two images may differ in: what it is called, and how it is said where saying it helps.</summary>
    IReadOnlyList<ImageFact> Facts { get; }

    /// <summary>The image as bytes: what is sent, kept and read back. The same design always gives the same ones.</summary>
    byte[] ToBytes();
}

/// <summary>A fact of an image that is no record: its key, its noun, and its value; <paramref name="IsSaid"/> where the value means something to people.</summary>
public sealed record ImageFact(string Key, string Noun, string Value, bool IsSaid);

/// <summary>A kind of thing that can be installed: how its image is built from the project, read from bytes, and set to work.</summary>
public interface IImageBuilder
{
    /// <summary>Kept with what is installed.</summary>
    string Key { get; }

    /// <summary>The type of record that is such a thing.</summary>
    Type Host { get; }

    /// <summary>Builds the image; the work is proportional to what belongs to it.</summary>
    IHostImage Build(Project project, ProjectRecord host);

    /// <summary>The image those bytes stand for.</summary>
    /// <exception cref="System.Text.Json.JsonException">They stand for none.</exception>
    IHostImage Read(ReadOnlySpan<byte> bytes);

    /// <summary>A program for an image, which has run nothing yet.</summary>
    /// <exception cref="InvalidOperationException">It cannot run; the message says why.</exception>
    IDeviceProgram Start(IHostImage image);
}

/// <summary>The registry of kinds of things that can be installed.</summary>
public static class HostKinds
{
    private static IImageBuilder[] _all = [new ControllerImageBuilder()];

    /// <summary>All of them.</summary>
    public static IReadOnlyList<IImageBuilder> All => _all;

    /// <summary>Adds a kind.</summary>
    /// <exception cref="InvalidOperationException">Its key or its type of record is there already.</exception>
    public static void Register(IImageBuilder kind)
    {
        lock (typeof(HostKinds))
        {
            if (_all.Any(k => k.Key == kind.Key || k.Host == kind.Host)) throw new InvalidOperationException($"There is a kind {kind.Key} already.");
            _all = [.. _all, kind];
        }
    }

    /// <summary>The kind of a record, or null when it is nothing that could be installed.</summary>
    public static IImageBuilder? Of(ProjectRecord? record)
    {
        foreach (IImageBuilder kind in _all)
        {
            if (record is not null && kind.Host == record.GetType()) return kind;
        }
        return null;
    }

    /// <summary>The kind with a key.</summary>
    /// <exception cref="InvalidOperationException">There is none.</exception>
    public static IImageBuilder Find(string key) => Array.Find(_all, k => k.Key == key) ?? throw new InvalidOperationException($"Nothing of the kind ‘{key}’ can be installed by this version.");

    /// <summary>SHA-256 of image bytes, in hexadecimal.</summary>
    public static string HashOf(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    /// <summary>All things of a project that can be installed.</summary>
    public static IEnumerable<ProjectRecord> HostsOf(Project project) => _all.SelectMany(k => project.AllOf(k.Host));

    /// <summary>The image of a host as the project designs it.</summary>
    public static IHostImage Build(Project project, ProjectRecord host) => (Of(host) ?? throw new InvalidOperationException($"‘{host.Name}’ is nothing that could be installed.")).Build(project, host);
}

/// <summary>Controllers.</summary>
public sealed class ControllerImageBuilder : IImageBuilder
{
    /// <summary>The key of the kind.</summary>
    public const string KindKey = "controller";

    /// <inheritdoc/>
    public string Key => KindKey;

    /// <inheritdoc/>
    public Type Host => typeof(Controller);

    /// <inheritdoc/>
    public IHostImage Build(Project project, ProjectRecord host) => ControllerImage.Build(project, (Controller)host);

    /// <inheritdoc/>
    public IHostImage Read(ReadOnlySpan<byte> bytes) => ControllerImage.FromBytes(bytes);

    /// <inheritdoc/>
    public IDeviceProgram Start(IHostImage image) => new Controllers.ControllerEngine((ControllerImage)image);
}
