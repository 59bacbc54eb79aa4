using System.IO.Compression;
using System.Text;
using System.Text.Json;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Projects;

/// <summary>
/// The whole project as one file: a zip of <c>records/TYPE.jsonl</c> with one record a line in the order of their ids, and
/// <c>manifest.json</c> with the format's name and version, the project's name and revision, and of each part its lines
/// and SHA-256. A damaged file is read as far as it goes, and every entry that cannot be is named.
/// </summary>
public static class ProjectFile
{
    private const string Format = "lofty-wren-project";
    private const long MostUnpacked = 256L * 1024 * 1024;
    private const int MostLine = 4 * 1024 * 1024;

    /// <summary>What a file held: its records, and what is wrong with it, each with the part and line.</summary>
    public sealed record Content(string Name, long Revision, IReadOnlyList<ProjectRecord> Records, IReadOnlyList<string> Problems);

    /// <summary>Writes a project; the same project always gives the same parts.</summary>
    public static byte[] Write(Project project)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            var parts = new List<Part>();
            foreach (var type in project.Records.GroupBy(TypeOf).OrderBy(g => g.Key, StringComparer.Ordinal))
            {
                byte[] body = Encoding.UTF8.GetBytes(string.Concat(type.OrderBy(r => r.Id).Select(r => RecordJson.Write(r) + "\n")));
                parts.Add(new Part($"records/{type.Key}.jsonl", type.Count(), Packing.Hash(body)));
                Packing.Put(zip, parts[^1].Path, body);
            }
            Packing.Put(zip, "manifest.json", JsonSerializer.SerializeToUtf8Bytes(new Manifest(Format, 1, project.Site?.Name ?? "", project.Revision, parts), RecordJson.Options));
        }
        return bytes.ToArray();
    }

    /// <summary>Reads a file as far as it goes.</summary>
    /// <exception cref="FileRefusedException">It is no project file at all, or larger than the limits.</exception>
    public static Content Read(byte[] bytes)
    {
        ZipArchive zip;
        try
        {
            zip = new ZipArchive(new MemoryStream(bytes, writable: false), ZipArchiveMode.Read);
            _ = zip.Entries.Count;
        }
        catch (InvalidDataException e)
        {
            throw new FileRefusedException("This is no project file: it is not a zip, or its directory at the end is missing. If it came over a network, ask for it again.", e);
        }
        using (zip)
        {
            var problems = new List<string>();
            long unpacked = 0;
            Manifest? manifest = null;
            try
            {
                manifest = zip.GetEntry("manifest.json") is { } entry ? JsonSerializer.Deserialize<Manifest>(Packing.Unpack(entry, ref unpacked, MostUnpacked), RecordJson.Options) : null;
            }
            catch (Exception e) when (e is JsonException or InvalidDataException or NotSupportedException or IOException)
            {
                problems.Add($"manifest.json cannot be read: {e.Message}");
            }
            if (manifest is { } m && m.Format != Format) throw new FileRefusedException("This is a file of another sort, not a project.");
            if (manifest is { Version: > 1 }) throw new FileRefusedException($"This project was written by a newer version (form {manifest.Version}); this one reads form 1. Update the program.");
            var parts = zip.Entries.Where(e => e.FullName.StartsWith("records/", StringComparison.Ordinal) && e.FullName.EndsWith(".jsonl", StringComparison.Ordinal)).Take(100).ToList();
            if (manifest is null && parts.Count == 0) throw new FileRefusedException("This is no project file: it has no manifest and no records.");
            if (manifest is null && problems.Count == 0) problems.Add("manifest.json is missing; nothing tells whether the rest is whole.");
            var records = new Dictionary<RecordId, ProjectRecord>();
            foreach (ZipArchiveEntry entry in parts)
            {
                string name = entry.FullName.Length > 60 ? entry.FullName[..60] : entry.FullName;
                byte[] body;
                try
                {
                    body = Packing.Unpack(entry, ref unpacked, MostUnpacked);
                }
                catch (Exception e) when (e is InvalidDataException or NotSupportedException or IOException)
                {
                    problems.Add($"{name} cannot be unpacked: {e.Message}");
                    continue;
                }
                Part? part = manifest?.Parts.FirstOrDefault(p => p.Path == entry.FullName);
                if (part is not null && part.Sha256 != Packing.Hash(body)) problems.Add($"{name} was changed after the file was written; its hash does not fit.");
                int line = 0, read = 0;
                foreach (string text in Encoding.UTF8.GetString(body).Split('\n'))
                {
                    line++;
                    if (text.Length == 0) continue;
                    try
                    {
                        if (text.Length > MostLine) throw new JsonException("the line is too long.");
                        ProjectRecord record = RecordJson.Read(text);
                        if (!records.TryAdd(record.Id, record)) problems.Add($"{name} line {line}: the record {record.Id} comes twice; the first is taken.");
                        read++;
                    }
                    catch (JsonException e)
                    {
                        problems.Add($"{name} line {line}: {(e.Message.Length > 160 ? e.Message[..160] + "…" : e.Message)}");
                    }
                }
                if (part is not null && part.Lines != read) problems.Add($"{name} holds {read} records that can be read, not {part.Lines}.");
            }
            foreach (Part part in manifest?.Parts ?? [])
            {
                if (parts.All(e => e.FullName != part.Path)) problems.Add($"{part.Path} is missing; it held {part.Lines} records.");
            }
            return new Content(manifest?.Project ?? "", manifest?.Revision ?? 0, [.. records.Values.OrderBy(r => r.Id)], problems);
        }
    }

    /// <summary>The largest part of some records that stands by itself: what is refused is left out until the rest is accepted. Tells what was left out.</summary>
    public static (Project Project, IReadOnlyList<string> LeftOut) Salvage(IReadOnlyList<ProjectRecord> records)
    {
        var kept = records.ToDictionary(r => r.Id);
        var left = new List<string>();
        while (kept.Count > 0)
        {
            ChangeOutcome outcome = Changes.Apply(Project.Empty, new ChangeSet([.. kept.Values.Select(r => Edit.Of(r))], "file", 0, "Read from a file"));
            if (outcome.After is { } project) return (project, left);
            foreach (var refusal in outcome.Refusals.GroupBy(r => r.RecordId))
            {
                if (kept.Remove(refusal.Key, out ProjectRecord? gone)) left.Add($"{gone.Noun} ‘{gone.Name}’: {refusal.First().Sentence}");
            }
        }
        return (Project.Empty, left);
    }

    private sealed record Manifest(string Format, int Version, string Project, long Revision, IReadOnlyList<Part> Parts);

    private sealed record Part(string Path, int Lines, string Sha256);

    private static string TypeOf(ProjectRecord record)
    {
        string name = record.GetType().Name;
        return char.ToLowerInvariant(name[0]) + name[1..];
    }
}
