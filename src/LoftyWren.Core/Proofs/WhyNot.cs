using System.Globalization;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using NodaTime;

namespace LoftyWren.Core.Proofs;

/// <summary>
/// What would have to be otherwise for an output to be something. It is not reasoned, it is tried: the logic that leads to the
/// output is lived on from where it stands, with one input after another otherwise, then two, and what made the output so is
/// what is answered, with the least change of a number that does. So it holds for every block there is, in every chain.
/// </summary>
public static class WhyNot
{
    /// <summary>For how long each trial is lived, s, and how far ahead is looked where nothing changes.</summary>
    public const double Soon = 900, Ahead = 86_400;

    private const int MostTogether = 14, Halvings = 16;

    /// <summary>Answers as an explanation: what it would take, each way a fact of its own. Null where the output is not commanded there.</summary>
    public static Because? Ask(Standstill from, RecordId output, TestCondition condition)
    {
        if (TrialBench.Take(from, output) is not { } bench) return null;
        string wanted = $"{bench.Output.Name} {Be(condition)} {condition.Say(bench.Form)}";
        if (condition.IsMetBy(bench.Now)) return Because.Of($"{bench.Output.Name} is {bench.Form.Say(bench.Now)} already.", [output]);
        var ways = new List<Because>();
        double? After(double seconds, IReadOnlyList<Otherwise>? otherwise = null, IReadOnlyList<Hold>? freed = null) => bench.IsSpent ? null : bench.After(condition.IsMetBy, seconds, otherwise ?? [], freed);
        DateTimeZone zone = DateTimeZoneProviders.Tzdb[from.Image.TimeZone];
        foreach (Hold hold in bench.Holds)
        {
            if (After(Soon, freed: [hold]) is { } after) ways.Add(Because.Of($"If {hold.Who} let {NameOf(from, hold.PointId)} go, {Then(after)}.", [hold.PointId]));
        }
        // What is tried with two at a time are the ends of what each can be.
        var ends = new List<Otherwise>();
        foreach (Lead lead in bench.Leads)
        {
            foreach (Otherwise end in Ends(bench, lead))
            {
                if (After(Soon, [end]) is { } after) ways.Add(Say(After, end, after));
                else ends.Add(end);
            }
        }
        bool isAlone = ways.Exists(w => w.Weight == Weight.Decides);
        if (!isAlone)
        {
            for (int i = 0; i < Math.Min(ends.Count, MostTogether); i++)
            {
                for (int j = i + 1; j < Math.Min(ends.Count, MostTogether); j++)
                {
                    if (ends[i].Lead == ends[j].Lead || After(Soon, [ends[i], ends[j]]) is not { } after) continue;
                    ways.Add(Because.Of($"If {Is(ends[i])} and {Is(ends[j])}, {Then(after)}.", [ends[i].Lead.Id, ends[j].Lead.Id]));
                }
            }
        }
        // The longest look comes last, so that it takes nothing from the others; it is told first.
        if (After(Ahead) is { } wait)
        {
            string at = Instant.FromUnixTimeMilliseconds(from.Now + (long)(wait * 1000) + from.ClockOffset).InZone(zone).ToString("ddd HH:mm:ss", CultureInfo.InvariantCulture);
            ways.Insert(0, Because.Of($"If nothing is otherwise, it comes to that by itself at {at}.", [output], weight: Weight.Note));
        }
        if (bench.IsSpent) ways.Add(Because.Of("There is more than could be tried in one go.", weight: Weight.Note));
        string length = $"{Soon / 60:0} min";
        return ways.Exists(w => w.Weight == Weight.Decides)
            ? Because.Of($"For {wanted} within {length}, {(ways.Count(w => w.Weight == Weight.Decides) == 1 ? "this would do" : "any of these would do")}; all else stays as it is.", [output], ways)
            : Because.Of($"Nothing that leads to it makes {wanted} within {length}, neither alone nor two together{(bench.Leads.Count == 0 ? ": no logic reads anything for it" : "")}. Holding it by hand would, where nothing stronger speaks.", [output], ways);
    }

    private static string Be(TestCondition condition) => condition.Relation is TestRelation.Is or TestRelation.Released or TestRelation.InFault or TestRelation.Above or TestRelation.Below or TestRelation.Between ? "to be" : "";

    private static string NameOf(Standstill from, RecordId id) => from.Image.Records.FirstOrDefault(r => r.Id == id)?.Name ?? id.Value;

    private static string Then(double after) => after <= 1 ? "it would be so at once" : $"it would be so after {TestStep.Length(Math.Round(after))}";

    private static string Is(Otherwise other) => $"{other.Lead.Name} {(other.Lead.IsSchedule ? "said" : "were")} {other.Lead.Say(other.Value.Value)} ({Present(other.Lead)})";

    private static string Present(Lead lead) => lead.Now.IsUsable ? $"it {(lead.IsSchedule ? "says" : "is")} {lead.Say(lead.Now.Value)}" : (lead.Now.Status & StatusFlags.Fault) != 0 ? "it is in fault" : "it has no value";

    /// <summary>What a lead could be instead, at its furthest: the other states, the ends of its range.</summary>
    private static IEnumerable<Otherwise> Ends(TrialBench bench, Lead lead)
    {
        IEnumerable<double> values = lead switch
        {
            { IsSchedule: true } => bench.ValuesOf(lead.Id),
            { Kind: PointKind.Binary } => [0, 1],
            { Kind: PointKind.Multistate } => Enumerable.Range(1, lead.StateTexts.Count).Select(n => (double)n),
            _ => [lead.High ?? Far(lead, 1), lead.Low ?? Far(lead, -1)],
        };
        return values.Where(v => !lead.Now.IsUsable || v != lead.Now.Value).Select(v => new Otherwise(lead, new PinValue(v, StatusFlags.None)));
    }

    /// <summary>The end of a range that nobody has given.</summary>
    private static double Far(Lead lead, int way) => (lead.Now.IsUsable ? lead.Now.Value : 0) + (way * Math.Max(100, lead.Now.IsUsable ? Math.Abs(lead.Now.Value) * 10 : 0));

    private static Because Say(Func<double, IReadOnlyList<Otherwise>?, IReadOnlyList<Hold>?, double?> tried, Otherwise end, double after)
    {
        Lead lead = end.Lead;
        if (lead.IsSchedule || lead.Kind != PointKind.Analog || !lead.Now.IsUsable) return Because.Of($"If {Is(end)}, {Then(after)}.", [lead.Id]);
        // Between what it is, which does not do, and the end of its range, which does, lies the least that does.
        double not = lead.Now.Value, does = end.Value.Value;
        for (int i = 0; i < Halvings; i++)
        {
            double half = not + ((does - not) / 2);
            if (tried(Soon, [new Otherwise(lead, new PinValue(half, StatusFlags.None))], null) is { } then) (does, after) = (half, then);
            else not = half;
        }
        // Told to a figure that a person would set, on the side that does.
        double step = Math.Pow(10, Math.Max(-1, Math.Ceiling(Math.Log10(Math.Max(1e-9, Math.Abs(does - not))))));
        double round = (does > lead.Now.Value ? Math.Ceiling(does / step) : Math.Floor(does / step)) * step;
        if (tried(Soon, [new Otherwise(lead, new PinValue(round, StatusFlags.None))], null) is { } rounded) (does, after) = (round, rounded);
        return Because.Of($"If {lead.Name} were {lead.Say(does)} or {(does > lead.Now.Value ? "more" : "less")} ({Present(lead)}), {Then(after)}.", [lead.Id]);
    }
}
