using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Proofs;

/// <summary>A controller as it stands at a moment: what it runs, what it remembers, and every reading. What is tried with it does not touch the controller.</summary>
public sealed record Standstill(ControllerImage Image, EngineMemory Memory, long Now, long ClockOffset, DeviceStart Start);

/// <summary>Something that leads to an output and is not worked out here: a point that is measured, read from elsewhere or set by people, or a schedule.</summary>
internal sealed record Lead(RecordId Id, string Name, PointKind Kind, string? Unit, IReadOnlyList<string> StateTexts, double? Low, double? High, PinValue Now, bool IsSchedule)
{
    public string Say(double value) => ValueText.Of(value, Kind, Unit, StateTexts);
}

/// <summary>A lead as it would be otherwise.</summary>
internal sealed record Otherwise(Lead Lead, PinValue Value);

/// <summary>
/// An output with all that leads to it on one controller, taken off as it stands, so that it can be lived on from there again
/// and again with something otherwise. Sensors, and what comes from other controllers, stay as they are unless it is said.
/// </summary>
internal sealed class TrialBench
{
    private readonly Standstill _from;
    private readonly ControllerImage _image;
    private readonly Dictionary<RecordId, PinValue> _told = [];

    /// <summary>Takes an output off a controller; null where it is not commanded there.</summary>
    public static TrialBench? Take(Standstill from, RecordId output) =>
        from.Image.Records.OfType<Point>().FirstOrDefault(p => p.Id == output) is { Role: not PointRole.Sensor } point && from.Image.Remote.All(r => r.PointId != output) ? new TrialBench(from, point) : null;

    private TrialBench(Standstill from, Point output)
    {
        (_from, Output) = (from, output);
        var points = from.Image.Records.OfType<Point>().ToDictionary(p => p.Id);
        var sequences = from.Image.Records.OfType<Sequence>().ToList();
        var schedules = from.Image.Records.OfType<Schedule>().ToList();
        var remote = from.Image.Remote.Select(r => r.PointId).ToHashSet();
        var wanted = new List<Sequence>();
        var leading = new HashSet<RecordId> { output.Id };
        var asked = new Queue<RecordId>([output.Id]);
        while (asked.TryDequeue(out RecordId point))
        {
            foreach (Sequence sequence in sequences.Where(s => s.Commands.Any(c => c.PointId == point) && !wanted.Contains(s)))
            {
                wanted.Add(sequence);
                foreach (RecordId read in sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => p.PointId).Where(p => points.ContainsKey(p) && leading.Add(p))) asked.Enqueue(read);
            }
        }
        var there = leading.Concat(wanted.SelectMany(s => s.Commands).Select(c => c.PointId)).Where(points.ContainsKey).ToHashSet();
        var heard = wanted.SelectMany(s => s.Sources()).Select(s => s.Source).OfType<ScheduleSource>().Select(s => s.ScheduleId).ToHashSet();
        var timed = schedules.Where(s => heard.Contains(s.Id) || s.Drives.Any(d => there.Contains(d.PointId))).Select(s => s with { Drives = [.. s.Drives.Where(d => there.Contains(d.PointId))] }).ToList();
        var controller = new Controller { Id = from.Image.Controller.Id, Name = from.Image.Controller.Name, PlaceId = from.Image.Controller.PlaceId, ModelId = Catalogue.Shipped.First(m => m.Kind == HardwareKind.Controller).Id };
        _image = new ControllerImage
        {
            Controller = controller,
            TimeZone = from.Image.TimeZone,
            // What comes from elsewhere is told, like what is measured.
            Records = [.. there.Select(id => remote.Contains(id) ? points[id] with { Role = PointRole.Sensor, Fallback = null, LeastOn = null, LeastOff = null, SetpointId = null } : points[id] with { SetpointId = null }), .. timed, .. wanted.Select(s => s with { ControllerId = controller.Id })],
        };
        var commanded = wanted.SelectMany(s => s.Commands).Select(c => c.PointId).Concat(timed.SelectMany(s => s.Drives).Select(d => d.PointId)).ToHashSet();
        var leads = new List<Lead>();
        foreach (Point point in leading.Select(id => points.GetValueOrDefault(id)).OfType<Point>())
        {
            PinValue now = from.Memory.Readings.TryGetValue(point.Id, out ReadingMemory? reading) ? new PinValue(reading.V ?? double.NaN, reading.F & ~StatusFlags.InAlarm) : PinValue.Released;
            bool isTold = point.Role == PointRole.Sensor || remote.Contains(point.Id);
            if (isTold) _told[point.Id] = now;
            if (point.Id != output.Id && (isTold || !commanded.Contains(point.Id))) leads.Add(new Lead(point.Id, point.Name, point.Kind, point.Unit, point.StateTexts, point.Low, point.High, now, false));
        }
        ControllerEngine present = Make();
        foreach (Schedule s in timed)
        {
            double? value = present.ScheduleNow(s.Id, from.Now);
            leads.Add(new Lead(s.Id, s.Name, s.Kind, s.Unit, s.StateTexts, null, null, value is { } v ? new PinValue(v, StatusFlags.None) : PinValue.Released, true));
        }
        Leads = leads;
        Holds = [.. from.Memory.Holds.Where(h => leading.Contains(h.PointId))];
        _perScan = PerScan + (long)wanted.Sum(s => s.Operations / Math.Max(1, s.ScanSeconds));
        Form = new(output.Kind, output.Unit, output.StateTexts);
    }

    /// <summary>The output.</summary>
    public Point Output { get; }

    /// <summary>How its values are said.</summary>
    public Live.ValueForm Form { get; }

    /// <summary>What leads to it.</summary>
    public IReadOnlyList<Lead> Leads { get; }

    /// <summary>What people hold of it and of what leads to it.</summary>
    public IReadOnlyList<Hold> Holds { get; }

    /// <summary>Whether all has been tried that is tried in one go: beyond so many operations nothing more is lived, so that a large controller is asked no longer than a small one.</summary>
    public bool IsSpent => _spent > MostOperations;

    private const long MostOperations = 60_000_000;
    // What a scan costs beside its blocks, and what it costs to begin anew, in scans.
    private const int PerScan = 40, PerBeginning = 100;

    private readonly long _perScan;
    private long _spent;

    /// <summary>The values that a schedule gives at all.</summary>
    public IEnumerable<double> ValuesOf(RecordId schedule) => _image.Records.OfType<Schedule>().Single(s => s.Id == schedule) is var s
        ? s.Week.SelectMany(d => d.Spans).Concat(s.Exceptions.SelectMany(e => e.Spans)).Select(x => x.Value).Append(s.Default ?? double.NaN).Where(double.IsFinite).Distinct() : [];

    /// <summary>What it is now.</summary>
    public Reading Now => _from.Memory.Readings.TryGetValue(Output.Id, out ReadingMemory? reading) ? new Reading(reading.V ?? double.NaN, reading.F, reading.T) : Reading.Released(_from.Now);

    /// <summary>The moment it was taken at, ms of site time.</summary>
    public long At => _from.Now;

    /// <summary>Lives on with some leads otherwise and some holds let go; answers after how many s a condition is met, or null where it is not within the time.</summary>
    public double? After(Func<Reading, bool> condition, double seconds, IReadOnlyList<Otherwise> otherwise, IReadOnlyList<Hold>? freed = null)
    {
        ControllerEngine engine = Make(otherwise);
        foreach (Hold hold in freed ?? []) engine.ReleaseHold(hold.PointId);
        return Live(engine, _from.Now, seconds, (_, reading) => condition(reading));
    }

    /// <summary>What the output comes to, each change with the s after which it came, at most so many; the first is what it is at the first scan.</summary>
    public IReadOnlyList<(double After, Reading Is)> Course(double seconds, int most, IReadOnlyList<Otherwise> otherwise, double powerGone = 0)
    {
        ControllerEngine engine = Make(otherwise);
        long from = _from.Now;
        if (powerGone > 0)
        {
            EngineMemory memory = engine.Remember();
            from += (long)(powerGone * 1000);
            engine = new ControllerEngine(_image) { ClockOffset = _from.ClockOffset };
            engine.Recall(memory, Resumption.AfterPause);
            engine.Start = new DeviceStart(RestartReason.DetectedPowerLost, from, SystemStatus.Operational);
            Tell(engine, otherwise);
        }
        var course = new List<(double, Reading)>();
        Live(engine, from, seconds, (after, reading) =>
        {
            if (course.Count == 0 || !Same(course[^1].Item2, reading)) course.Add((after, reading));
            return course.Count >= most;
        });
        return course;
    }

    /// <summary>Whether two readings are the same to whoever looks at the output: a number that only creeps is.</summary>
    private bool Same(Reading a, Reading b) => a.IsUsable == b.IsUsable && (!a.IsUsable || Form.Say(a) == Form.Say(b));

    private double? Live(ControllerEngine engine, long from, double seconds, Func<double, Reading, bool> ends)
    {
        long until = from + (long)(seconds * 1000);
        for (long now = Math.Max(from + 1, Math.Min(engine.NextDue, from + ControllerEngine.BeatMilliseconds)); now <= until; now = Math.Max(now + 1, engine.NextDue))
        {
            if (IsSpent) return null;
            _spent += _perScan;
            engine.Scan(now);
            double after = (now - from) / 1000.0;
            if (ends(after, engine.Read(Output.Id)!.Value)) return after;
        }
        return null;
    }

    private ControllerEngine Make(IReadOnlyList<Otherwise>? otherwise = null)
    {
        _spent += _perScan * PerBeginning;
        var fixedAt = (otherwise ?? []).Where(o => o.Lead.IsSchedule).ToDictionary(o => o.Lead.Id, o => o.Value.Value);
        ControllerImage image = fixedAt.Count == 0 ? _image : _image with { Records = [.. _image.Records.Select(r => r is Schedule s && fixedAt.TryGetValue(s.Id, out double value) ? s with { Week = [], Exceptions = [], Default = value } : r)] };
        var engine = new ControllerEngine(image) { ClockOffset = _from.ClockOffset };
        engine.Recall(_from.Memory, Resumption.GoesOn);
        engine.Start = _from.Start;
        Tell(engine, otherwise ?? []);
        return engine;
    }

    private void Tell(ControllerEngine engine, IReadOnlyList<Otherwise> otherwise)
    {
        foreach (var (point, value) in _told) engine.Simulate(point, value);
        foreach (Otherwise other in otherwise.Where(o => !o.Lead.IsSchedule))
        {
            if (engine.LadderOf(other.Lead.Id) is null) engine.Simulate(other.Lead.Id, other.Value);
            else if (other.Value.IsUsable) engine.HoldByHand(new Hold(other.Lead.Id, other.Value.Value, "trial", "tried", _from.Now, null));
        }
    }
}
