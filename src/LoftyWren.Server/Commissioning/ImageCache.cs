using System.Collections.Concurrent;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;

namespace LoftyWren.Server.Commissioning;

/// <summary>The image of a host as the project designs it, with its bytes and their hash.</summary>
public sealed record DesignImage(IHostImage Image, byte[] Bytes, string Hash);

/// <summary>The images that the project designs, built when somebody asks and kept until an edit touches what they are built from; and how far each is ahead of what runs.</summary>
public sealed class ImageCache(Workspace workspace)
{
    private readonly Kept<DesignImage?> _designs = new(workspace, (project, id) =>
    {
        if (project.Find(id) is not { } host || HostKinds.Of(host) is not { } kind) return null;
        IHostImage image = kind.Build(project, host);
        byte[] bytes = image.ToBytes();
        return new DesignImage(image, bytes, HostKinds.HashOf(bytes));
    });

    private readonly ConcurrentDictionary<RecordId, (DesignImage Design, string Installed, int Changes)> _compared = new();

    /// <summary>The image of a host as it is designed now, or null when the host is not in the project any more.</summary>
    public DesignImage? Design(RecordId host) => _designs.Of(host);

    /// <summary>How many records differ between design and installed; a null stands for nothing installed.</summary>
    public int Changes(RecordId host, Installed? installed, ILink link)
    {
        if (Design(host) is not { } design) return 0;
        string hash = installed?.Hash ?? "";
        if (design.Hash == hash) return 0;
        if (_compared.TryGetValue(host, out var known) && ReferenceEquals(known.Design, design) && known.Installed == hash) return known.Changes;
        int changes = ImageComparison.Compare(ImageOf(installed, link), design.Image).Count;
        _compared[host] = (design, hash, changes);
        return changes;
    }

    private readonly ConcurrentDictionary<RecordId, (string Hash, IHostImage Image)> _installed = new();

    /// <summary>What runs on something installed, or null; read once for as long as it is the same.</summary>
    public IHostImage? ImageOf(Installed? installed, ILink link)
    {
        if (installed is not { Runs: true }) return null;
        if (_installed.TryGetValue(installed.Id, out var known) && known.Hash == installed.Hash) return known.Image;
        if (link.ImageOf(installed.Id) is not { } bytes) return null;
        IHostImage image = HostKinds.Find(installed.Kind).Read(bytes);
        _installed[installed.Id] = (installed.Hash, image);
        return image;
    }
}
