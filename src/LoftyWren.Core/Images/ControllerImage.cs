using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Images;

/// <summary>A point that a controller reads from another one.</summary>
public sealed record RemotePoint(RecordId PointId, RecordId ControllerId);

/// <summary>All that one controller runs: the records it needs, in the order of their ids, so that the same design always gives the same bytes.</summary>
public sealed record ControllerImage
{
    /// <summary>The controller it is for.</summary>
    public required Controller Controller { get; init; }

    /// <summary>The site's time zone, by its IANA name.</summary>
    public required string TimeZone { get; init; }

    /// <summary>Points, fittings, sequences, schedules, trends and alarms.</summary>
    public required IReadOnlyList<ProjectRecord> Records { get; init; }

    /// <summary>Which of the points live on other controllers.</summary>
    public IReadOnlyList<RemotePoint> Remote { get; init; } = [];

    /// <summary>The image as bytes: what is sent, kept and read back.</summary>
    public byte[] ToBytes() => JsonSerializer.SerializeToUtf8Bytes(this, RecordJson.Options);

    /// <summary>The image those bytes stand for. Throws <see cref="JsonException"/> when they stand for none.</summary>
    public static ControllerImage FromBytes(ReadOnlySpan<byte> bytes) =>
        JsonSerializer.Deserialize<ControllerImage>(bytes, RecordJson.Options) ?? throw new JsonException("The bytes hold no image.");

    /// <summary>SHA-256 of image bytes, in hexadecimal.</summary>
    public static string HashOf(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    /// <summary>Builds the image of a controller; the work is proportional to what belongs to it, not to the project.</summary>
    public static ControllerImage Build(Project project, Controller controller)
    {
        var records = new Dictionary<RecordId, ProjectRecord>();
        var remote = new Dictionary<RecordId, RecordId>();
        var own = project.Referrers<Fitting>(controller.Id).ToList();
        var home = own.Select(f => f.PointId).ToHashSet();
        foreach (Fitting fitting in own)
        {
            records[fitting.Id] = fitting;
            if (project.Find(fitting.PointId) is { } point) records[point.Id] = point;
        }
        void Read(RecordId pointId)
        {
            if (home.Contains(pointId) || project.Find<Point>(pointId) is not { } point) return;
            if (project.Find<Fitting>(project.Holder($"source|{pointId}")) is not { } source) return;
            records[pointId] = point;
            remote[pointId] = source.ControllerId;
        }
        foreach (Sequence sequence in project.Referrers<Sequence>(controller.Id))
        {
            records[sequence.Id] = sequence;
            foreach (var (source, _, _) in sequence.Sources())
            {
                if (source is PointSource p) Read(p.PointId);
                else if (source is ScheduleSource s && project.Find<Schedule>(s.ScheduleId) is { } schedule) records[schedule.Id] = Narrow(schedule);
            }
        }
        foreach (RecordId pointId in home)
        {
            foreach (ProjectRecord referrer in project.Referrers(pointId))
            {
                if (referrer is Schedule schedule) records[schedule.Id] = Narrow(schedule);
                else if (referrer is TrendLog or AlarmRule) records[referrer.Id] = referrer;
            }
        }
        return new ControllerImage
        {
            Controller = controller,
            TimeZone = project.Site?.TimeZone ?? "UTC",
            Records = [.. records.Values.OrderBy(r => r.Id)],
            Remote = [.. remote.OrderBy(r => r.Key).Select(r => new RemotePoint(r.Key, r.Value))],
        };

        // A controller only carries the drives of its own outputs; another controller's are none of its business.
        Schedule Narrow(Schedule schedule) => schedule with { Drives = [.. schedule.Drives.Where(d => home.Contains(d.PointId))] };
    }
}

/// <summary>What becomes of one record.</summary>
public enum Difference
{
    /// <summary>In the design only.</summary>
    Added,
    /// <summary>In both, and different.</summary>
    Changed,
    /// <summary>In the installed image only.</summary>
    Removed,
}

/// <summary>One field that differs, as texts; empty for absent.</summary>
public sealed record FieldDifference(string Field, string Installed, string Design);

/// <summary>One record that differs between the design and what is installed.</summary>
public sealed record ImageDifference(RecordId Id, Difference What, string Noun, string Name, IReadOnlyList<FieldDifference> Fields);

/// <summary>Design against installed: a difference of records, not of bytes.</summary>
public static class ImageComparison
{
    /// <summary>All differences; empty when the controller runs the design. A null image stands for a controller that runs nothing.</summary>
    public static IReadOnlyList<ImageDifference> Compare(ControllerImage? installed, ControllerImage design)
    {
        var differences = new List<ImageDifference>();
        var old = All(installed).ToDictionary(r => r.Id);
        var now = All(design).ToDictionary(r => r.Id);
        string Called(ProjectRecord record) => record is Fitting fitting
            ? $"{fitting.Terminal} · {record.Called(id => now.GetValueOrDefault(id) ?? old.GetValueOrDefault(id))}"
            : record.Name;
        foreach (ProjectRecord record in now.Values)
        {
            if (!old.TryGetValue(record.Id, out ProjectRecord? before)) differences.Add(new ImageDifference(record.Id, Difference.Added, record.Noun, Called(record), []));
            else if (!RecordJson.Same(before, record)) differences.Add(new ImageDifference(record.Id, Difference.Changed, record.Noun, Called(record), Fields(before, record)));
        }
        foreach (ProjectRecord record in old.Values)
        {
            if (!now.ContainsKey(record.Id)) differences.Add(new ImageDifference(record.Id, Difference.Removed, record.Noun, Called(record), []));
        }
        if (installed is not null && installed.TimeZone != design.TimeZone)
            differences.Add(new ImageDifference(design.Controller.Id, Difference.Changed, "time zone", design.Controller.Name, [new FieldDifference("timeZone", installed.TimeZone, design.TimeZone)]));
        if (installed is not null && !installed.Remote.SequenceEqual(design.Remote))
            differences.Add(new ImageDifference(design.Controller.Id, Difference.Changed, "exchange with other controllers", design.Controller.Name, []));
        return [.. differences.OrderBy(d => d.Noun).ThenBy(d => d.Name)];

        static IEnumerable<ProjectRecord> All(ControllerImage? image) => image is null ? [] : image.Records.Prepend(image.Controller);
    }

    /// <summary>The fields in which two records of one sort differ; parts of lists by their identity, so that one changed block is one line.</summary>
    public static IReadOnlyList<FieldDifference> Fields(ProjectRecord before, ProjectRecord after)
    {
        var fields = new List<FieldDifference>();
        Walk(JsonNode.Parse(RecordJson.Write(before)), JsonNode.Parse(RecordJson.Write(after)), "");
        return fields;

        void Walk(JsonNode? a, JsonNode? b, string path)
        {
            if (JsonNode.DeepEquals(a, b)) return;
            if (a is JsonObject x && b is JsonObject y)
            {
                foreach (string key in x.Select(p => p.Key).Union(y.Select(p => p.Key)).ToList()) Walk(x[key], y[key], path.Length == 0 ? key : $"{path}.{key}");
            }
            else if (a is JsonArray p && b is JsonArray q && p.Concat(q).All(n => KeyOf(n) is not null))
            {
                foreach (string key in p.Concat(q).Select(n => KeyOf(n)!).Distinct().ToList())
                    Walk(p.FirstOrDefault(n => KeyOf(n) == key), q.FirstOrDefault(n => KeyOf(n) == key), $"{path} {key}");
            }
            else fields.Add(new FieldDifference(path, Text(a), Text(b)));
        }

        static string? KeyOf(JsonNode? node) => node is JsonObject o ? (o["id"] ?? o["pointId"] ?? o["priority"])?.ToString() : null;

        static string Text(JsonNode? node)
        {
            string text = node is JsonValue value ? value.ToString() : node?.ToJsonString(RecordJson.Options) ?? "";
            return text.Length > 200 ? text[..200] + "…" : text;
        }
    }
}
