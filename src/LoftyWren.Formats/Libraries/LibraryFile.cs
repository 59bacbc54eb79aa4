using System.IO.Compression;
using System.Text.Json;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Libraries;

/// <summary>
/// A library as one file: a zip of one JSON file a template and <c>manifest.json</c>, which holds the format's name and
/// version, the library's name, and of each part its SHA-256. The hash of the manifest's parts signs the content.
/// </summary>
public static class LibraryFile
{
    private const string Format = "lofty-wren-library";
    private const int MostTemplates = 5000;
    private const long MostUnpacked = 96L * 1024 * 1024;

    /// <summary>A library file as it was read.</summary>
    public sealed record Content(string Name, IReadOnlyList<Template> Templates, string Hash);

    /// <summary>Writes a library; the same templates always give the same content hash.</summary>
    public static byte[] Write(string name, IEnumerable<Template> templates)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            var parts = new List<Part>();
            foreach (Template template in templates.OrderBy(t => t.Id, StringComparer.Ordinal))
            {
                byte[] body = JsonSerializer.SerializeToUtf8Bytes(template, RecordJson.Options);
                parts.Add(new Part($"templates/{parts.Count + 1:0000}.json", Packing.Hash(body)));
                Packing.Put(zip, parts[^1].Path, body);
            }
            Packing.Put(zip, "manifest.json", JsonSerializer.SerializeToUtf8Bytes(new Manifest(Format, 1, name, parts, HashOf(parts)), RecordJson.Options));
        }
        return bytes.ToArray();
    }

    /// <summary>Reads a library file from a stranger: nothing in it is run, no name in it is used as a path.</summary>
    /// <exception cref="FileRefusedException">It is no library file, is damaged, or is larger than the limits.</exception>
    public static Content Read(byte[] bytes)
    {
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes, writable: false), ZipArchiveMode.Read);
            if (zip.Entries.Count > MostTemplates + 1) throw new FileRefusedException($"The file holds {zip.Entries.Count} parts; a library has at most {MostTemplates}.");
            long total = 0;
            Manifest manifest = JsonSerializer.Deserialize<Manifest>(Get(zip, "manifest.json", ref total), RecordJson.Options) ?? throw new FileRefusedException("The manifest is empty.");
            if (manifest.Format != Format) throw new FileRefusedException("This is not a library file.");
            if (manifest.Version > 1) throw new FileRefusedException($"This library was written by a newer version (form {manifest.Version}); this one reads form 1. Update the program.");
            if (HashOf(manifest.Parts) != manifest.Hash) throw new FileRefusedException("The manifest was changed after the file was written; its hash does not fit. Ask for the file again.");
            var templates = new List<Template>();
            foreach (Part part in manifest.Parts)
            {
                byte[] body = Get(zip, part.Path, ref total);
                if (Packing.Hash(body) != part.Sha256) throw new FileRefusedException($"{part.Path} was changed after the file was written; its hash does not fit. Ask for the file again.");
                Template template = JsonSerializer.Deserialize<Template>(body, RecordJson.Options) ?? throw new FileRefusedException($"{part.Path} holds no template.");
                if (template.Refuse() is { } sentence) throw new FileRefusedException($"{part.Path} holds a template that cannot be placed. {sentence}");
                templates.Add(template);
            }
            return new Content(manifest.Name, templates, manifest.Hash);
        }
        catch (Exception e) when (e is InvalidDataException or JsonException or EndOfStreamException or NotSupportedException)
        {
            throw new FileRefusedException($"This is no library file that can be read: {e.Message}", e);
        }
    }

    private sealed record Manifest(string Format, int Version, string Name, IReadOnlyList<Part> Parts, string Hash);

    private sealed record Part(string Path, string Sha256);

    private static string HashOf(IEnumerable<Part> parts) => Packing.Hash(JsonSerializer.SerializeToUtf8Bytes(parts, RecordJson.Options));

    private static byte[] Get(ZipArchive zip, string path, ref long total) => zip.GetEntry(path) is { } entry
        ? Packing.Unpack(entry, ref total, MostUnpacked)
        : throw new FileRefusedException($"{(path.Length > 60 ? path[..60] : path)} is missing in the file.");
}
