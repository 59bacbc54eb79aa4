using System.Globalization;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Proofs;

/// <summary>How a loop is tried.</summary>
public enum TuningWay
{
    /// <summary>Its output goes up and down as the measurement falls and rises, so that it swings.</summary>
    Relay,
    /// <summary>Its output makes one step.</summary>
    Step,
}

/// <summary>What a curve is called, and its values at even steps of time.</summary>
public sealed record TuningCurve(string Name, string? Unit, IReadOnlyList<double> Values);

/// <summary>A loop that was tried: what was found in words, the settings it has and those it could have, the trial, and how the loop answers a new setpoint under each.</summary>
/// <param name="Found">What was found, a sentence each.</param>
/// <param name="Now">The settings that the block has.</param>
/// <param name="Proposals">Settings by the rules, each with what it is for.</param>
/// <param name="TrialSeconds">How long the trial was, s.</param>
/// <param name="Trial">The measurement, where there is one the model of it, and the output.</param>
/// <param name="ResponseSeconds">How long each answer was looked at, s.</param>
/// <param name="Responses">The setpoint, and the measurement under the present settings and under each proposal.</param>
public sealed record Tuned(IReadOnlyList<string> Found, LoopSettings Now, IReadOnlyList<LoopProposal> Proposals, double TrialSeconds, IReadOnlyList<TuningCurve> Trial, double ResponseSeconds, IReadOnlyList<TuningCurve> Responses);

/// <summary>
/// Tries a PID loop on its plant: the sequence runs closed until it is settled, then the output is moved in place of the block
/// and what the measurement makes of it is looked at, beside a twin whose output stays: weather and people have no part in it. Then the loop answers a new setpoint under the settings it has and those
/// that are proposed. All on the bench, the same every time.
/// </summary>
public sealed class LoopTuning
{
    private const double SettlingSeconds = 7200, LongestSeconds = 86_400, Every = 5;
    private const int Swings = 5, Shown = 400;
    private static readonly RecordId Output = new("tuning-output"), Setpoint = new("tuning-setpoint");

    private readonly Project _project;
    private readonly Sequence _sequence;
    private readonly Block _loop;
    private readonly FunctionTest _preparation;
    private readonly Func<ControllerImage, IBenchPlant> _plant;
    private readonly ControllerImage _image;
    private readonly Typing _typing;
    private readonly Func<bool>? _tooLong;
    private int _lived;

    private LoopTuning(Project project, Sequence sequence, Block loop, IReadOnlyList<TestStep> before, Func<ControllerImage, IBenchPlant> plant, Func<bool>? tooLong)
    {
        _tooLong = tooLong;
        _preparation = new FunctionTest { Id = "tuning", Name = "Tuning", On = TestGround.Plant, Steps = before };
        (_project, _sequence, _loop, _plant) = (project, sequence with { Tests = [_preparation] }, loop, plant);
        _image = ProofBench.Alone(project, _sequence);
        _typing = Typing.Of(sequence, project);
    }

    /// <summary>Tries the loop of a block by moving its output by so many %.</summary>
    /// <exception cref="InvalidOperationException">It cannot be tried as it stands; the message says why.</exception>
    public static Tuned Try(Project project, Sequence sequence, string blockId, TuningWay way, double by, IReadOnlyList<TestStep> before, Func<ControllerImage, IBenchPlant> plant, Func<bool>? tooLong = null)
    {
        if (sequence.Blocks.FirstOrDefault(b => b.Id == blockId) is not { } loop || !BlockType.Of(loop).IsLoop) throw new InvalidOperationException("Only a PID block has a loop to be tuned.");
        if (!loop.Inputs.ContainsKey("measured") || !loop.Inputs.ContainsKey("setpoint")) throw new InvalidOperationException("Its measured value or its setpoint is open. Connect both first.");
        if (Typing.Of(sequence, project).Problems.FirstOrDefault() is { } problem) throw new InvalidOperationException($"The sequence cannot be calculated: {problem.Sentence}");
        if (!(by is > 0 and <= 50)) throw new InvalidOperationException("The output is moved by more than 0 % and at most 50 %.");
        return new LoopTuning(project, sequence, loop, before, plant, tooLong).Try(way, by);
    }

    private bool IsReverse => BlockType.Of(_loop).Choice(_loop, "action") == "reverse";

    private LoopSettings Settings => new(BlockType.Of(_loop).Number(_loop, "gain"), BlockType.Of(_loop).Number(_loop, "ti"), BlockType.Of(_loop).Number(_loop, "td"));

    private double Low => BlockType.Of(_loop).Number(_loop, "low");

    private double High => BlockType.Of(_loop).Number(_loop, "high");

    private string? Unit => _loop.Inputs["measured"] is PointSource p ? _project.Find<Point>(p.PointId)?.Unit : _loop.Inputs["measured"] is BlockSource b ? _typing.Outputs.GetValueOrDefault((b.BlockId, b.Pin)).Unit?.Symbol : null;

    private string Say(double value) => string.Create(CultureInfo.InvariantCulture, $"{value:0.##} {Unit}").TrimEnd();

    // A difference of temperatures is none.
    private string SayBy(double difference) => string.Create(CultureInfo.InvariantCulture, $"{difference:0.###} {Units.Unit.Find(Unit)?.Difference.Symbol ?? Unit}").TrimEnd();

    private static string SayTime(double seconds) => seconds < 120 ? string.Create(CultureInfo.InvariantCulture, $"{seconds:0} s") : seconds < 7200 ? string.Create(CultureInfo.InvariantCulture, $"{seconds / 60:0.#} min") : string.Create(CultureInfo.InvariantCulture, $"{seconds / 3600:0.#} h");

    private Tuned Try(TuningWay way, double by)
    {
        var (stand, now) = Settled(_image);
        double output = Read(stand, new BlockSource(_loop.Id)) ?? throw new InvalidOperationException("The loop says nothing where the trial begins: it is not enabled, or what it reads has no value. Say in the preparation what it needs, such as ‘set Supply fan to on’.");
        double measured = Measured(stand);
        double room = Math.Min(output - Low, High - output);
        if (way == TuningWay.Relay && room < by) by = room;
        if (way == TuningWay.Step && High - output < by) by = Math.Max(Low - output, -by);
        if (Math.Abs(by) < 1) throw new InvalidOperationException($"Where the trial begins the output stands at {output:0.#} %, at a limit, so it cannot be moved. Choose a moment at which it is at work, or say so in the preparation.");
        ITestStand open = stand.Otherwise(Opened(_image)), twin = Settled(_image).Stand.Otherwise(Opened(_image));
        twin.Give(Output, new PinValue(output, StatusFlags.None));
        var found = new List<string> { $"Settled, the output stands at {output:0.#} % and the measurement at {Say(measured)}." };
        return way == TuningWay.Relay ? Swung(open, twin, now, output, measured, by, found) : Stepped(open, twin, now, output, measured, by, found);
    }

    private Tuned Swung(ITestStand open, ITestStand twin, long now, double output, double middle, double by, List<string> found)
    {
        double differential = 0.002 * Math.Max(1, Math.Abs(middle));
        var values = new List<double>();
        var outputs = new List<double>();
        var turns = new List<int>();
        bool up = true;
        for (int i = 0; i * Every < LongestSeconds && turns.Count < (2 * Swings) + 1; i++)
        {
            double there = middle + Measured(open) - Measured(twin), off = IsReverse ? middle - there : there - middle;
            if (up ? off < -differential : off > differential)
            {
                up = !up;
                turns.Add(i);
            }
            open.Give(Output, new PinValue(output + (up ? by : -by), StatusFlags.None));
            values.Add(there);
            outputs.Add(output + (up ? by : -by));
            now += (long)(Every * 1000);
            GoTo(open, twin, now);
        }
        if (turns.Count < 5) throw new InvalidOperationException($"In {LongestSeconds / 3600:0} h the loop did not swing: the output, moved by ± {by:0.#} %, brought the measurement back {turns.Count} time{(turns.Count == 1 ? "" : "s")} only. {(turns.Count == 0 ? "Is its action the right way round, and is its output tied to the plant? " : "")}Move the output by more, or try a step.");
        // The first swings find their way; the last are measured. Each swing is from one turn down to the next.
        var downs = turns.Where((_, i) => i % 2 == 0).ToList();
        var swings = downs.Zip(downs.Skip(1), (a, b) => (Period: (b - a) * Every, Half: (values.Skip(a).Take(b - a + 1).Max() - values.Skip(a).Take(b - a + 1).Min()) / 2)).TakeLast(3).ToList();
        var swing = new Swing(Median(swings.Select(s => s.Half)), Median(swings.Select(s => s.Period)));
        double ultimate = LoopRules.UltimateGain(by, swing, differential);
        found.Add($"Under a relay of ± {by:0.#} % it swings by ± {SayBy(swing.Amplitude)} every {SayTime(swing.Period)}: it would just swing by itself at a gain of {ultimate:0.##} % per unit.");
        return Told(found, Rounded(LoopRules.Of(ultimate, swing.Period)), values.Count * Every, [new("measured", Unit, Thin(values)), new("output", "%", Thin(outputs))], 4 * swing.Period);
    }

    private Tuned Stepped(ITestStand open, ITestStand twin, long now, double output, double begin, double by, List<string> found)
    {
        var values = new List<double>();
        var outputs = new List<double>();
        int furthest = 0;
        open.Give(Output, new PinValue(output + by, StatusFlags.None));
        for (int i = 0; i * Every < LongestSeconds; i++)
        {
            values.Add(begin + Measured(open) - Measured(twin));
            outputs.Add(output + (i == 0 ? 0 : by));
            double gone = Math.Abs(values[^1] - values[0]);
            if (gone > Math.Abs(values[furthest] - values[0])) furthest = i;
            // Settled once the last fifth of it has hardly moved, after half an hour at least; over once it goes back, as when what it drives is switched off in the evening.
            if (i * Every > 1800 && i % 60 == 0 && Math.Abs(values[^1] - values[values.Count * 4 / 5]) < 0.01 * gone) break;
            if (i * Every > 1800 && gone < 0.9 * Math.Abs(values[furthest] - values[0]))
            {
                values.RemoveRange(furthest + 1, values.Count - furthest - 1);
                outputs.RemoveRange(furthest + 1, outputs.Count - furthest - 1);
                break;
            }
            now += (long)(Every * 1000);
            GoTo(open, twin, now);
        }
        if (LoopRules.Fit(values, Every, by) is not { } model || Math.Abs(values[^1] - values[0]) < 1e-3) throw new InvalidOperationException($"The output went by {by:0.#} %, and the measurement stayed at {Say(begin)}. Is the output tied to the plant, and does what it drives run? Say so in the preparation.");
        if (model.Gain > 0 != IsReverse) throw new InvalidOperationException($"With {Math.Abs(by):0.#} % {(by > 0 ? "more" : "less")} the measurement {(values[^1] > values[0] ? "rose" : "fell")} by {SayBy(Math.Abs(values[^1] - values[0]))}: the action of the block, {(IsReverse ? "reverse (heating)" : "direct (cooling)")}, is the wrong way round.");
        found.Add($"A step of {by:0.#} % moves it by {SayBy(values[^1] - values[0])}: {SayBy(model.Gain)} per %, a lag of {SayTime(model.Lag)} behind a dead time of {SayTime(model.DeadTime)}.");
        List<double> fitted = [.. values.Select((_, i) => values[0] + (by * model.After(i * Every)))];
        return Told(found, Rounded(LoopRules.Of(model, _sequence.ScanSeconds)), values.Count * Every, [new("measured", Unit, Thin(values)), new("one lag behind a dead time", Unit, Thin(fitted)), new("output", "%", Thin(outputs))], Math.Max(3600, 5 * (model.DeadTime + model.Lag)));
    }

    private Tuned Told(List<string> found, IReadOnlyList<LoopProposal> proposals, double seconds, IReadOnlyList<TuningCurve> trial, double response)
    {
        response = Math.Clamp(response, 1800, 14_400);
        var curves = new List<TuningCurve>();
        foreach (LoopProposal each in proposals.Prepend(new LoopProposal("as it is", Settings)))
        {
            var (values, wanted) = Answer(each.Settings, response);
            if (curves.Count == 0) curves.Add(new TuningCurve("setpoint", Unit, Thin(wanted)));
            curves.Add(new TuningCurve(each.For, Unit, Thin(values)));
            double step = wanted[^1] - wanted[0], beyond = values.Max(v => (v - values[0] - step) * Math.Sign(step)), error = values.Average(v => Math.Abs(values[0] + step - v));
            found.Add($"{(each.For == "as it is" ? "As it is" : char.ToUpperInvariant(each.For[0]) + each.For[1..])}: {SayBy(step)} further it is {SayBy(error)} off on average over {SayTime(response)}{(beyond > 0.02 * Math.Abs(step) ? $", and goes {SayBy(beyond)} beyond" : ", and does not go beyond")}.");
        }
        return new Tuned(found, Settings, proposals, seconds, trial, response, curves);
    }

    /// <summary>How the measurement answers a setpoint that is moved by a twentieth of its range, or a kelvin, under some settings; with the setpoint.</summary>
    private (List<double> Values, List<double> Wanted) Answer(LoopSettings settings, double seconds)
    {
        Block tuned = _loop with { Numbers = new Dictionary<string, double>(_loop.Numbers) { ["gain"] = settings.Gain, ["ti"] = settings.Ti, ["td"] = settings.Td } };
        ControllerImage image = With(_image, s => s with { Blocks = [.. s.Blocks.Select(b => b.Id == tuned.Id ? tuned : b)] });
        var (stand, now) = Settled(image);
        double measured = Measured(stand), before = Read(stand, _loop.Inputs["setpoint"]) ?? measured, wanted = before + (Units.Unit.Find(Unit)?.Quantity == Units.Quantity.Temperature ? 1 : Math.Max(1, Math.Abs(before) * 0.05));
        ControllerImage told = With(image, s => s with { Blocks = [.. s.Blocks.Select(b => b.Id == _loop.Id ? b with { Inputs = new Dictionary<string, Source>(b.Inputs) { ["setpoint"] = new PointSource(Setpoint) } } : b)] });
        // Beside a twin whose setpoint stays, under the same settings: weather and people have no part in the answer.
        ITestStand moved = stand.Otherwise(told), twin = Settled(image).Stand.Otherwise(told);
        moved.Give(Setpoint, new PinValue(wanted, StatusFlags.None));
        twin.Give(Setpoint, new PinValue(before, StatusFlags.None));
        List<double> values = [], wants = [];
        long period = Math.Max(1000, (long)(_sequence.ScanSeconds * 1000)), next = now;
        for (double t = 0; t <= seconds; t += period / 1000.0)
        {
            if (now >= next)
            {
                values.Add(measured + Measured(moved) - Measured(twin));
                wants.Add(values.Count == 1 ? before : wanted);
                next += (long)(Every * 1000);
            }
            now += period;
            GoTo(moved, twin, now);
        }
        return (values, wants);
    }

    /// <summary>The sequence in a program on its plant, prepared and left to itself until it has settled.</summary>
    private (EngineStand Stand, long Now) Settled(ControllerImage image)
    {
        var stand = new EngineStand(image, _sequence.Id, _plant(image));
        Proof proof = ProofBench.Prove(_project, _sequence, _preparation with { Steps = [.. _preparation.Steps, new WaitStep(SettlingSeconds)] }, stand, _tooLong);
        if (_tooLong?.Invoke() == true) TakesTooLong();
        if (proof.Steps.FirstOrDefault(s => s.Passed == false) is { } failed) throw new InvalidOperationException($"The preparation does not come true: {failed.Line}: {failed.Says}");
        return (stand, stand.Now);
    }

    private void GoTo(ITestStand stand, ITestStand twin, long now)
    {
        stand.GoTo(now);
        twin.GoTo(now);
        if (++_lived % 256 == 0 && _tooLong?.Invoke() == true) TakesTooLong();
    }

    private static void TakesTooLong() => throw new InvalidOperationException("Trying this loop takes too long here: the sequence is large and scans often. Give it a longer scan period for the trial, or shorten the preparation.");

    private double Measured(ITestStand stand) => Read(stand, _loop.Inputs["measured"]) ?? throw new InvalidOperationException("What the loop measures has no value: tie its point to the plant, or say in the preparation what it is.");

    private double? Read(ITestStand stand, Source source) =>
        (source is PointSource p ? stand.Present(p.PointId) : source is BlockSource b ? stand.Watch(new TestSubject { BlockId = b.BlockId, Pin = b.Pin })?.Read() : source is ConstantSource c ? new Reading(c.Value, StatusFlags.None, 0) : null) is { IsUsable: true } reading ? reading.Value : null;

    /// <summary>The program with the output of the loop told from outside, in place of the block.</summary>
    private ControllerImage Opened(ControllerImage image)
    {
        Source told(Source source) => source is BlockSource b && b.BlockId == _loop.Id ? new PointSource(Output) : source;
        return With(image, s => s with
        {
            Blocks = [.. s.Blocks.Select(b => b with { Inputs = b.Inputs.ToDictionary(i => i.Key, i => told(i.Value)) })],
            Commands = [.. s.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k.Source is null ? k : k with { Source = told(k.Source) })] })],
        });
    }

    private ControllerImage With(ControllerImage image, Func<Sequence, Sequence> change)
    {
        Point told(RecordId id, string? unit) => new() { Id = id, Name = id.Value, OwnerId = _sequence.EquipmentId, Role = PointRole.Sensor, Kind = PointKind.Analog, Unit = unit };
        return image with { Records = [.. image.Records.Where(r => r.Id != Output && r.Id != Setpoint).Select(r => r is Sequence s ? change(s) : r), told(Output, "%"), told(Setpoint, Unit)] };
    }

    private static double Median(IEnumerable<double> values) => values.Order().ToList() is var sorted ? sorted[sorted.Count / 2] : 0;

    // As finely as anybody would type them.
    private static IReadOnlyList<LoopProposal> Rounded(IReadOnlyList<LoopProposal> all) => [.. all.Select(p => p with { Settings = new(Math.Clamp(Fine(p.Settings.Gain), 0.001, 10_000), Math.Clamp(Math.Round(p.Settings.Ti), 1, 86_400), Math.Round(p.Settings.Td)) })];

    private static double Fine(double value) => value == 0 ? 0 : Math.Round(value, Math.Clamp(2 - (int)Math.Floor(Math.Log10(Math.Abs(value))), 0, 10));

    private static IReadOnlyList<double> Thin(List<double> values) => values.Count <= Shown ? values : [.. Enumerable.Range(0, Shown).Select(i => values[(int)((long)i * (values.Count - 1) / (Shown - 1))])];
}
