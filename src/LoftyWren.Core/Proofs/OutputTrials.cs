using LoftyWren.Core.Hardware;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Proofs;

/// <summary>What an output does when something befalls it: what, what it then comes to in words, and the record that it is about, if any.</summary>
public sealed record OutputTrial(string When, string Says, RecordId? Of);

/// <summary>What an output does, as it stands, when power comes back, when its program stops, and when one of what it reads is lost: tried, not declared.</summary>
public static class OutputTrials
{
    /// <summary>For how long each is lived, s, and for how long power is gone.</summary>
    public const double Lived = 900, PowerGone = 30;

    private const int MostLeads = 24, MostChanges = 5;

    /// <summary>All of them; null where the output is not commanded there.</summary>
    public static IReadOnlyList<OutputTrial>? Of(Standstill from, RecordId output)
    {
        if (TrialBench.Take(from, output) is not { } bench) return null;
        var trials = new List<OutputTrial> { new($"power was gone for {PowerGone:0} s", Say(bench, bench.Course(Lived, MostChanges, [], PowerGone), null), null) };
        if (from.Image.Records.OfType<Fitting>().FirstOrDefault(f => f.PointId == output) is { } fitting && fitting.Signal.Write(fitting.Settings(id => from.Image.Records.FirstOrDefault(r => r.Id == id)), double.NaN) is var rest)
            trials.Add(new("its program is stopped, or power is gone", $"{fitting.Terminal} is at rest: {(fitting.Signal.RawUnit.Length == 0 ? rest > 0.5 ? "closed" : "open" : $"{rest.ToString("0.##", System.Globalization.CultureInfo.InvariantCulture)} {fitting.Signal.RawUnit}".TrimEnd())}", null));
        foreach (Lead lead in bench.Leads.Where(l => !l.IsSchedule && l.Now.IsUsable).Take(MostLeads))
        {
            if (bench.IsSpent) break;
            if (from.Image.Records.FirstOrDefault(r => r.Id == lead.Id) is Points.Point { Role: not Points.PointRole.Sensor } && from.Image.Remote.All(r => r.PointId != lead.Id)) continue;
            trials.Add(new($"{lead.Name} is lost", Say(bench, bench.Course(Lived, MostChanges, [new Otherwise(lead, PinValue.Fault)]), bench.Now), lead.Id));
        }
        if (bench.IsSpent) trials.Add(new("anything else befalls it", "there is more than could be tried in one go", null));
        return trials;
    }

    /// <summary>A course in words; with what it was before, only what has changed of that.</summary>
    private static string Say(TrialBench bench, IReadOnlyList<(double After, Reading Is)> course, Reading? before)
    {
        string Value(Reading reading) => reading.IsUsable ? bench.Form.Say(reading) : "no value: its terminal is at rest";
        if (course.Count == 0) return "it is not scanned";
        if (before is { } was && course.Count == 1 && Value(course[0].Is) == Value(was)) return $"stays {Value(was)}";
        if (course.Count >= MostChanges) return $"{(before is { } b && Value(course[0].Is) == Value(b) ? "goes on" : Value(course[0].Is))}, then changes: {Value(course[^1].Is)} after {TestStep.Length(Math.Round(course[^1].After))}";
        return string.Join(", ", course.Select((c, i) => i == 0 ? Value(c.Is) : $"{Value(c.Is)} after {TestStep.Length(Math.Max(1, Math.Round(c.After)))}"));
    }
}
