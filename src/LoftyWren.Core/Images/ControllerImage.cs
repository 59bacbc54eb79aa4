using System.Text.Json;
using System.Text.Json.Serialization;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Images;

/// <summary>A point that a controller reads from another one.</summary>
public sealed record RemotePoint(RecordId PointId, RecordId ControllerId);

/// <summary>All that one controller runs: the records it needs, in the order of their ids, so that the same design always gives the same bytes.</summary>
public sealed record ControllerImage : IHostImage
{
    /// <inheritdoc/>
    [JsonIgnore]
    public ProjectRecord Host => Controller;

    /// <inheritdoc/>
    [JsonIgnore]
    public IReadOnlyList<ImageFact> Facts => [new("timeZone", "time zone", TimeZone, true), new("remote", "exchange with other controllers", string.Join(' ', Remote.Select(r => $"{r.PointId}@{r.ControllerId}")), false)];

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

    /// <summary>Builds the image of a controller; the work is proportional to what belongs to it, not to the project.</summary>
    public static ControllerImage Build(Project project, Controller controller)
    {
        var records = new Dictionary<RecordId, ProjectRecord>();
        var remote = new Dictionary<RecordId, RecordId>();
        var own = project.Referrers<Fitting>(controller.Id).ToList();
        var home = own.Select(f => f.PointId).ToHashSet();
        // Of models that a project brings along, the controller's own and those beside it come along too.
        void Model(string modelId)
        {
            if (project.Find<OwnModel>(project.Holder(OwnModel.Key(modelId))) is { } model) records[model.Id] = model;
        }
        Model(controller.ModelId);
        foreach (IoModule module in project.Referrers<IoModule>(controller.Id))
        {
            records[module.Id] = module;
            Model(module.ModelId);
        }
        foreach (Fitting fitting in own)
        {
            records[fitting.Id] = fitting;
            if (project.Find<SensorCurve>(fitting.CurveId) is { } curve) records[curve.Id] = curve;
            if (project.Find<Point>(fitting.PointId) is { } point) records[point.Id] = Run(point);
        }
        foreach (BusBinding binding in project.Referrers<BusBinding>(controller.Id))
        {
            records[binding.Id] = binding;
            home.Add(binding.PointId);
            if (project.Find<Point>(binding.PointId) is { } point) records[point.Id] = Run(point);
            // What the group is called and part of is for people.
            if (project.Find<GroupAddress>(binding.GroupId) is { } group) records[group.Id] = group with { ConversationId = null, Role = null };
            if (project.Find<BusLine>(controller.BusLineId) is { } line) records[line.Id] = line;
        }
        void Read(RecordId pointId)
        {
            if (home.Contains(pointId) || project.Find<Point>(pointId) is not { } point) return;
            if (project.BindingOf(pointId) is not { } source) return;
            records[pointId] = Run(point);
            remote[pointId] = source.HostId;
        }
        foreach (Sequence sequence in project.Referrers<Sequence>(controller.Id))
        {
            records[sequence.Id] = sequence.Clauses.Count == 0 && sequence.Tests.Count == 0 ? sequence : sequence with { Clauses = [], Tests = [] };
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
                else if (referrer.ParentId == pointId && RecordKinds.Of(referrer).RunsInImage) records[referrer.Id] = referrer;
            }
        }
        return new ControllerImage
        {
            Controller = controller,
            TimeZone = project.Site?.TimeZone ?? "UTC",
            Records = [.. records.Values.OrderBy(r => r.Id)],
            Remote = [.. remote.OrderBy(r => r.Key).Select(r => new RemotePoint(r.Key, r.Value))],
        };

        // Tags are for people and programs that look at the project; no controller runs them.
        static Point Run(Point point) => point.Tags is null && point.TemplateTags is null ? point : point with { Tags = null, TemplateTags = null };

        // A controller only carries the drives of its own outputs; another controller's are none of its business.
        Schedule Narrow(Schedule schedule) => schedule with { Drives = [.. schedule.Drives.Where(d => home.Contains(d.PointId))] };
    }
}

/// <summary>Design against installed: a difference of records, not of bytes.</summary>
public static class ImageComparison
{
    /// <summary>All differences; empty when the controller runs the design. A null image stands for something that runs nothing.</summary>
    public static IReadOnlyList<RecordDifference> Compare(IHostImage? installed, IHostImage design)
    {
        var differences = new List<RecordDifference>();
        var old = All(installed).ToDictionary(r => r.Id);
        var now = All(design).ToDictionary(r => r.Id);
        ProjectRecord? Find(RecordId id) => now.GetValueOrDefault(id) ?? old.GetValueOrDefault(id);
        string Called(ProjectRecord record) => record is Fitting fitting ? $"{fitting.Terminal} · {record.Called(Find)}" : record.Name;
        void Add(ProjectRecord record, DifferenceKind kind, IReadOnlyList<FieldDifference> fields, string? noun = null) =>
            differences.Add(new RecordDifference(record.Id, kind, noun ?? record.Noun, Called(record), "", fields));
        foreach (ProjectRecord record in now.Values)
        {
            if (!old.TryGetValue(record.Id, out ProjectRecord? before)) Add(record, DifferenceKind.Added, []);
            else if (!RecordJson.Same(before, record)) Add(record, DifferenceKind.Changed, Differences.Fields(before, record, Find));
        }
        foreach (ProjectRecord record in old.Values)
        {
            if (!now.ContainsKey(record.Id)) Add(record, DifferenceKind.Removed, []);
        }
        var facts = installed?.Facts.ToDictionary(f => f.Key, f => f.Value);
        foreach (ImageFact fact in design.Facts)
        {
            if (facts?.GetValueOrDefault(fact.Key) is { } was && was != fact.Value) Add(design.Host, DifferenceKind.Changed, fact.IsSaid ? [new FieldDifference(fact.Key, fact.Noun, was, fact.Value)] : [], fact.Noun);
        }
        return [.. differences.OrderBy(d => d.Noun).ThenBy(d => d.Name)];

        static IEnumerable<ProjectRecord> All(IHostImage? image) => image is null ? [] : image.Records.Prepend(image.Host);
    }
}
