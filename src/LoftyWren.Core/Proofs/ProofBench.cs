using System.Text.Json;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using NodaTime;

namespace LoftyWren.Core.Proofs;

/// <summary>How one step went: its line, when it was done (s from the beginning of the story), whether what it expects came true, what there is to say, and why it was otherwise.</summary>
public sealed record ProvenStep(string Line, double AtSeconds, bool? Passed, string Says, Because? Why);

/// <summary>How a test went: passed or not, its steps, how long the story was, and what everything in it did.</summary>
public sealed record Proof(bool Passed, IReadOnlyList<ProvenStep> Steps, BlockStory Story);

/// <summary>
/// Lives the stories of tests: on the bench, where a sequence stands alone on a controller with nothing wired and every point it
/// touches is set by the test or left released, or on another stand. The same test always comes to the same.
/// </summary>
public sealed class ProofBench
{
    private const int MostSamples = 20_000;
    private const long MostScans = 1_000_000;

    private readonly Sequence _sequence;
    private readonly SubjectNames _names;
    private readonly ITestStand _stand;
    private readonly Dictionary<RecordId, (double From, double To, long Begins, long Ends)> _ramps = [];
    private readonly List<TestSubject> _watched;
    private readonly List<(long At, PinValue[] Values)> _samples = [];
    private ILiveSource?[]? _sources;
    private long _now, _begin, _scans, _turns;
    private readonly PinValue[] _last;
    private readonly Func<bool>? _tooLong;
    private bool _isBegun, _isTouched = true, _isOver;

    private ProofBench(Project project, Sequence sequence, FunctionTest test, ITestStand? stand, Func<bool>? tooLong)
    {
        _tooLong = tooLong;
        // Of its tests only this one has a say in what stands on the bench.
        (_sequence, _names) = (sequence with { Tests = [test] }, new SubjectNames(project, sequence));
        _stand = stand ?? new EngineStand(Alone(project, _sequence), sequence.Id);
        _watched = [.. test.Steps.Select(s => s.Subject).OfType<TestSubject>().Concat(sequence.Commands.Select(c => new TestSubject { PointId = c.PointId })).Where(s => _names.FormOf(s) is not null).Distinct().Take(12)];
        _last = new PinValue[_watched.Count];
        _begin = _now = _stand.Stands ?? At(TestMoment.Week, 12);
        if (_stand.Stands is null) _stand.Begin(_begin);
    }

    /// <summary>Lives a test of a sequence; on the bench alone where no stand is given. It is given up where whoever asks says that it takes too long.</summary>
    /// <exception cref="InvalidOperationException">The sequence cannot be calculated; the message says why.</exception>
    public static Proof Prove(Project project, Sequence sequence, FunctionTest test, ITestStand? stand = null, Func<bool>? tooLong = null)
    {
        var bench = new ProofBench(project, sequence, test, stand, tooLong);
        var steps = new List<ProvenStep>();
        foreach (TestStep step in test.Steps)
        {
            if (bench.IsOver)
            {
                steps.Add(new ProvenStep(step.Say(bench._names), bench.Elapsed, false, $"the story has taken {bench._scans.ToString("N0", System.Globalization.CultureInfo.InvariantCulture)} scans, and more are not lived{(bench._isOver ? " here: it takes too long" : "")}. Make it shorter, or split it.", null));
                break;
            }
            bool isGone = step.HasSubject && (step.Subject is null || bench._names.FormOf(step.Subject) is null || (step.Sets && !bench._names.CanBeSet(step.Subject)));
            var (passed, says) = isGone ? (false, "what it is about is no longer there.") : bench.Done(step);
            steps.Add(new ProvenStep(step.Say(bench._names), bench.Elapsed, passed, says, passed == false && !isGone && step.HasSubject ? bench.Why(step.Subject!) : null));
            // What a story waits for and does not come leaves nothing to go on with.
            if (passed == false && step.EndsStory) break;
        }
        bench.Note();
        return new Proof(steps.All(s => s.Passed != false) && steps.Exists(s => s.Passed == true), steps, bench.Story());
    }

    private (bool? Passed, string Says) Done(TestStep step)
    {
        try
        {
            return step.Do(this);
        }
        catch (InvalidOperationException e)
        {
            return (false, e.Message);
        }
    }

    /// <summary>All that the outcome of a test rests on, as one hash: the sequence, its points, the schedules it knows, the test, and what stands beside them. The words of clauses and the other tests are none of it.</summary>
    public static string Rests(Project project, Sequence sequence, FunctionTest test, string beside = "") =>
        HostKinds.HashOf(JsonSerializer.SerializeToUtf8Bytes(new { Image = Alone(project, sequence with { Tests = [test] }), test.Steps, test.On, beside }, RecordJson.Options));

    private double Elapsed => (_now - _begin) / 1000.0;

    private long At(LocalDate date, int hour) => _stand.Zone.AtLeniently(date + new LocalTime(hour, 0)).ToInstant().ToUnixTimeMilliseconds();

    internal string? Begin(TestMoment moment)
    {
        const string Once = "a story begins once, before anything else happens; use ‘go on at’ later.";
        if (_isBegun) return Once;
        // A site stands where it stands: what happens until then is lived.
        if (_stand.Stands is not null) return GoOnAt(moment);
        Instant monday = Instant.FromUnixTimeMilliseconds(At(TestMoment.Week, 0));
        if (moment.Date is not null) monday = Instant.MinValue;
        if (moment.From(monday, _stand.Zone) is not { } at) return Once;
        _begin = _now = at.ToUnixTimeMilliseconds();
        _stand.Begin(_now);
        return null;
    }

    internal void Set(TestSubject subject, double value) => Give(subject.PointId!.Value, new PinValue(value, StatusFlags.None));

    /// <summary>Has what a point is tied to be so; of what is commanded it is the same as setting it.</summary>
    internal void Have(TestSubject subject, double value)
    {
        if (_stand.IsCommanded(subject.PointId!.Value))
        {
            Set(subject, value);
            return;
        }
        _ramps.Remove(subject.PointId.Value);
        _stand.Have(subject.PointId.Value, value);
        _isTouched = true;
    }

    /// <summary>Has a sensor fail; false for what is commanded, which has none.</summary>
    internal bool Fail(TestSubject subject)
    {
        if (_stand.IsCommanded(subject.PointId!.Value)) return false;
        Give(subject.PointId.Value, PinValue.Fault);
        return true;
    }

    private void Give(RecordId point, PinValue value)
    {
        _isBegun = true;
        _ramps.Remove(point);
        _stand.Give(point, value);
        _isTouched = true;
    }

    internal void LetGo(TestSubject subject)
    {
        RecordId point = subject.PointId!.Value;
        _ramps.Remove(point);
        _stand.LetGo(point);
        _isTouched = true;
    }

    internal void Ramp(TestSubject subject, double value, double seconds)
    {
        RecordId point = subject.PointId!.Value;
        double from = _stand.Present(point) is { IsUsable: true } reading ? reading.Value : value;
        Give(point, new PinValue(from, StatusFlags.None));
        _ramps[point] = (from, value, _now, _now + (long)(seconds * 1000));
    }

    /// <summary>Lets time pass, and looks after each scan whether something has ended it; answers after how many s it has, null where not.</summary>
    private double? Pass(double seconds, Func<bool>? ends)
    {
        _isBegun = true;
        long from = _now, until = _now + (long)Math.Round(seconds * 1000);
        // What was set is seen by the sequence at its next scan.
        if (_isTouched && ends is not null) until = Math.Max(until, _now + Period);
        for (bool first = true; ; first = false)
        {
            if (!first || _isTouched) Scan();
            if (ends?.Invoke() == true && !(first && _isTouched)) return (_now - from) / 1000.0;
            if (_now >= until || IsOver) return null;
            _now = Math.Min(until, Math.Max(_now + 1, Math.Min(_stand.NextDue, _now + Period)));
        }
    }

    private bool IsOver => _isOver || _scans >= MostScans;

    private long Period => Math.Max(1, (long)Math.Round(_sequence.ScanSeconds * 1000));

    private void Scan()
    {
        foreach (var (point, (from, to, begins, ends)) in _ramps)
        {
            double share = ends > begins ? Math.Clamp((_now - begins) / (double)(ends - begins), 0, 1) : 1;
            _stand.Give(point, new PinValue(from + ((to - from) * share), StatusFlags.None));
        }
        _stand.GoTo(_now);
        if (++_scans % 64 == 0) _isOver |= _tooLong?.Invoke() == true;
        Note();
    }

    internal void Pass(double seconds)
    {
        Pass(seconds, null);
        _isTouched = false;
    }

    internal double? Await(TestSubject subject, TestCondition condition, double within)
    {
        double? after = _isTouched || within > 0 ? Pass(within, () => condition.IsMetBy(Read(subject))) : condition.IsMetBy(Read(subject)) ? 0 : null;
        _isTouched = false;
        return after;
    }

    internal double? Keeps(TestSubject subject, TestCondition condition, double seconds) => Pass(seconds, () => !condition.IsMetBy(Read(subject)));

    internal void CutPower(double seconds)
    {
        Pass(0, null);
        long milliseconds = (long)(seconds * 1000);
        // While it is off nothing is known.
        if (milliseconds > 0 && _samples.Count < MostSamples) _samples.Add((_now + 1, [.. _watched.Select(_ => PinValue.Released)]));
        _now += milliseconds;
        _stand.CutPower(milliseconds);
        _sources = null;
        _isTouched = true;
    }

    internal string? GoOnAt(TestMoment moment)
    {
        if (moment.From(Instant.FromUnixTimeMilliseconds(_now), _stand.Zone) is not { } at) return "that moment lies before the one the story has come to.";
        double seconds = (at.ToUnixTimeMilliseconds() - _now) / 1000.0;
        if (Elapsed + seconds > FunctionTest.LongestSeconds) return $"that is {(Elapsed + seconds) / 86_400:0.#} days from the beginning; a test lasts at most {FunctionTest.LongestSeconds / 86_400:0}.";
        Pass(seconds);
        return null;
    }

    internal string Now(TestSubject subject) => (Source(subject)?.Form ?? ValueForm.Number).Say(Read(subject));

    private Reading Read(TestSubject subject) => Source(subject)?.Read() ?? Reading.Released(_now);

    private ILiveSource? Source(TestSubject subject) => _stand.Watch(subject);

    private Because? Why(TestSubject subject) => subject.PointId is { } point ? _stand.Explain(point) : null;

    private void Note()
    {
        if (_samples.Count >= MostSamples) return;
        if (_sources is null || _turns != _stand.Turns) (_sources, _turns) = ([.. _watched.Select(Source)], _stand.Turns);
        bool isNew = _samples.Count == 0;
        for (int i = 0; i < _sources.Length; i++)
        {
            Reading reading = _sources[i]?.Read() ?? Reading.Released(_now);
            _last[i] = new PinValue(reading.Value, reading.Status);
            isNew |= _samples.Count > 0 && !_samples[^1].Values[i].Equals(_last[i]);
        }
        // Only what has changed is worth keeping.
        if (isNew) _samples.Add((_now, [.. _last]));
    }

    /// <summary>What everything in it did: for each of even stretches of time two values, its least and its greatest in the order they came, so that nothing short is hidden.</summary>
    private BlockStory Story()
    {
        const int Stretches = 160;
        double seconds = Math.Max(1, Elapsed);
        var lines = new List<StoryLine>();
        for (int w = 0; w < _watched.Count; w++)
        {
            TestSubject subject = _watched[w];
            ValueForm form = _names.FormOf(subject)!;
            var values = new double?[Stretches * 2];
            int at = 0;
            PinValue present = _samples.Count > 0 ? _samples[0].Values[w] : PinValue.Released;
            for (int stretch = 0; stretch < Stretches; stretch++)
            {
                long end = _begin + (long)(seconds * 1000 * (stretch + 1) / Stretches);
                double? first = Shown(present), other = first;
                for (; at < _samples.Count && (_samples[at].At < end || stretch == Stretches - 1); at++)
                {
                    present = _samples[at].Values[w];
                    double? value = Shown(present);
                    // The one that is furthest from where the stretch began is the one to be seen.
                    if (other == first || (value is { } v && first is { } f && other is { } o ? Math.Abs(v - f) > Math.Abs(o - f) : value != first)) other = value;
                }
                (values[2 * stretch], values[(2 * stretch) + 1]) = (first, other);
            }
            bool isSet = subject.PointId is { } id && _sequence.Commands.All(c => c.PointId != id);
            lines.Add(new StoryLine(subject.PointId?.Value ?? $"{subject.BlockId}.{subject.Pin}", _names.Of(subject), isSet, form.Kind == PointKind.Binary, form.Unit, values));
        }
        return new BlockStory(seconds, lines);
    }

    private static double? Shown(PinValue value) => value.IsUsable ? value.Value : null;

    /// <summary>A sequence and what it touches on a controller of its own; of its tests those given with it have a say in what that is.</summary>
    public static ControllerImage Alone(Project project, Sequence sequence)
    {
        var commanded = sequence.Commands.Select(c => c.PointId).ToHashSet();
        var points = commanded.Concat(sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => p.PointId)).Concat(sequence.Tests.SelectMany(t => t.Steps).Select(s => s.Subject?.PointId).OfType<RecordId>())
            .Distinct().Select(id => project.Find<Point>(id)).OfType<Point>().ToList();
        // A schedule that commands an output stays: the claims of people's hours are part of what the sequence is to do.
        var schedules = sequence.Sources().Select(s => s.Source).OfType<ScheduleSource>().Select(s => s.ScheduleId).Concat(commanded.SelectMany(id => project.Referrers<Schedule>(id)).Select(s => s.Id))
            .Distinct().Select(id => project.Find<Schedule>(id)).OfType<Schedule>().Select(s => s with { Drives = [.. commanded.SelectMany(s.DrivesOn)] });
        var controller = new Controller { Id = new("bench"), Name = "The bench", PlaceId = project.Site?.Id ?? new("site"), ModelId = Catalogue.Shipped.First(m => m.Kind == HardwareKind.Controller).Id };
        return new ControllerImage
        {
            Controller = controller,
            TimeZone = project.Site?.TimeZone ?? "UTC",
            Records = [.. points, .. schedules, sequence with { ControllerId = controller.Id, Clauses = [], Tests = [] }],
            Remote = [],
        };
    }
}
