using System.IO.Compression;
using System.Text;
using System.Text.Json;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Projects;

/// <summary>
/// The whole project as one file: a zip of <c>records/KIND.jsonl</c> with one record a line in the order of their ids, and
/// <c>manifest.json</c> with the format's name and version, the project's name and revision, and of each part its lines
/// and SHA-256. A damaged file is read as far as it goes, and every entry that cannot be is named.
/// </summary>
public static class ProjectFile
{
    private const string Format = "lofty-wren-project";
    private const long MostUnpacked = 256L * 1024 * 1024;
    private const int MostLine = 4 * 1024 * 1024, MostLines = 1_000_000, MostProblems = 1000;
    private static readonly TimeSpan MostTime = TimeSpan.FromSeconds(60);

    /// <summary>What a file held: its records, and what is wrong with it, each with the part and line.</summary>
    public sealed record Content(string Name, long Revision, IReadOnlyList<ProjectRecord> Records, IReadOnlyList<string> Problems);

    /// <summary>Writes a project; the same project always gives the same parts.</summary>
    public static byte[] Write(Project project)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            var parts = new List<Part>();
            foreach (var type in project.Records.GroupBy(r => RecordKinds.Of(r).Key).OrderBy(g => g.Key, StringComparer.Ordinal))
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
    public static Content Read(byte[] bytes, CancellationToken stop = default)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
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
                Part? part = manifest?.Parts.FirstOrDefault(p => p.Path == entry.FullName);
                int read = 0, before = problems.Count;
                try
                {
                    // Line by line as it unpacks: nothing is kept but the records, and reading stops at whichever limit comes first.
                    foreach (var (line, text) in Packing.Lines(entry, count => unpacked = Packing.Within(unpacked + count, MostUnpacked), MostLine, hash =>
                    {
                        if (part is not null && part.Sha256 != hash) problems.Insert(before, $"{name} was changed after the file was written; its hash does not fit.");
                    }))
                    {
                        if (line > MostLines) throw new InvalidDataException($"it has more than {MostLines:N0} lines");
                        if (problems.Count - before >= MostProblems) throw new InvalidDataException($"more than {MostProblems} of its lines cannot be read, so the rest was not tried");
                        if ((line & 255) == 0)
                        {
                            stop.ThrowIfCancellationRequested();
                            if (clock.Elapsed > MostTime) throw new InvalidDataException($"reading took longer than {MostTime.TotalSeconds:0} s and was stopped");
                        }
                        if (text.AsSpan().Trim().Length == 0) continue;
                        try
                        {
                            ProjectRecord record = RecordJson.Read(text);
                            if (!records.TryAdd(record.Id, record)) problems.Add($"{name} line {line}: the record {record.Id} comes twice; the first is taken.");
                            read++;
                        }
                        catch (JsonException e)
                        {
                            problems.Add($"{name} line {line}: {(e.Message.Length > 160 ? e.Message[..160] + "…" : e.Message)}");
                        }
                    }
                }
                catch (Exception e) when (e is InvalidDataException or NotSupportedException or IOException)
                {
                    problems.Add($"{name} cannot be unpacked whole: {e.Message}");
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

    /// <summary>
    /// The largest part of some records that stands by itself. What belongs to something that is not there is left out, with
    /// all that belongs to it; what only refers to it is kept without; what is refused then is left out too. Tells what was
    /// left out.
    /// </summary>
    public static (Project Project, IReadOnlyList<string> LeftOut) Salvage(IReadOnlyList<ProjectRecord> records, CancellationToken stop = default)
    {
        var kept = records.ToDictionary(r => r.Id);
        var left = new List<string>();
        for (int round = 0; kept.Count > 0; round++)
        {
            stop.ThrowIfCancellationRequested();
            LeaveOutWhatHangs(kept, left);
            ChangeOutcome outcome = Changes.Apply(Project.Empty, new ChangeSet([.. kept.Values.Select(r => Edit.Of(r))], "file", 0, "Read from a file"));
            if (outcome.After is { } project) return (project, left);
            foreach (var refusal in outcome.Refusals.GroupBy(r => r.RecordId))
            {
                if (kept.Remove(refusal.Key, out ProjectRecord? gone)) left.Add($"{gone.Noun} ‘{gone.Name}’: {refusal.First().Sentence}");
            }
            if (round < MostRounds) continue;
            left.Add($"{kept.Count} records that still do not stand together after {MostRounds} tries.");
            break;
        }
        return (Project.Empty, left);
    }

    private const int MostRounds = 30;

    /// <summary>Takes away what hangs in the air, each record looked at once and once more for each that goes before it.</summary>
    private static void LeaveOutWhatHangs(Dictionary<RecordId, ProjectRecord> kept, List<string> left)
    {
        var referrers = kept.Values.SelectMany(r => r.References().Select(f => (f.To, r.Id))).ToLookup(x => x.To, x => x.Id);
        var waiting = new Queue<RecordId>(kept.Keys);
        while (waiting.TryDequeue(out RecordId id))
        {
            if (!kept.TryGetValue(id, out ProjectRecord? record)) continue;
            var missing = record.References().Where(r => !kept.ContainsKey(r.To)).ToList();
            if (missing.Count == 0) continue;
            ProjectRecord without = missing.Any(m => m.Owning) ? record : record.Without(missing.Select(m => m.To).ToHashSet());
            if (without.References().Any(r => !kept.ContainsKey(r.To)))
            {
                kept.Remove(id);
                left.Add($"{record.Noun} ‘{record.Name}’: it belongs to {missing[0].To}, which is not in the file.");
                foreach (RecordId referrer in referrers[id]) waiting.Enqueue(referrer);
            }
            else
            {
                kept[id] = without;
                left.Add($"{record.Noun} ‘{record.Name}’ is kept without {string.Join(", ", missing.Take(3).Select(m => m.To))}, which the file does not hold.");
            }
        }
    }

    private sealed record Manifest(string Format, int Version, string Project, long Revision, IReadOnlyList<Part> Parts);

    private sealed record Part(string Path, int Lines, string Sha256);
}
