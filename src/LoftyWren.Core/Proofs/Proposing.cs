using System.Globalization;
using System.Text.RegularExpressions;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Proofs;

/// <summary>A test that was made of a clause's words, and whether the sequence as it is passes it.</summary>
public sealed record Proposal(FunctionTest Test, bool Passes);

/// <summary>
/// Makes tests of clauses: what a paragraph says must follow (<em>runs</em>, <em>is shut</em>), from what (<em>above 29 °C</em>,
/// <em>while somebody is there</em>), and how long after. What is expected comes from the words alone; what the words leave open
/// (the hour, contacts that they do not name, how far above is far enough) is tried until the sequence passes, or shown as it
/// fails. A proposal always has the outcome come and go: what never changes proves nothing.
/// </summary>
public static partial class Proposing
{
    private const int MostLives = 240;
    private const double Calm = 30, Patience = 1200;

    private static readonly Dictionary<string, double> Words = new(StringComparer.OrdinalIgnoreCase)
    {
        ["a"] = 1,
        ["an"] = 1,
        ["one"] = 1,
        ["two"] = 2,
        ["three"] = 3,
        ["four"] = 4,
        ["five"] = 5,
        ["six"] = 6,
        ["eight"] = 8,
        ["ten"] = 10,
        ["twelve"] = 12,
        ["fifteen"] = 15,
        ["twenty"] = 20,
        ["thirty"] = 30,
        ["half an"] = 0.5,
        ["half a"] = 0.5,
    };

    private static readonly string[] Comes = ["run", "runs", "on", "start", "starts", "open", "opens", "lit", "light", "lights", "fires", "works", "enabled", "enables"], Goes = ["stop", "stops", "off", "close", "closes", "closed", "shut", "stands", "rests", "disabled", "takes"];

    // How far beyond a number is tried, as a share of it: past any differential in the end.
    private static readonly double[] Beyond = [0.02, 0.1, 0.3];

    private static readonly TestMoment[] Hours = [new() { Day = NodaTime.IsoDayOfWeek.Tuesday, Seconds = 11 * 3600 }, new() { Day = NodaTime.IsoDayOfWeek.Tuesday, Seconds = 3 * 3600 }];

    /// <summary>What brings an outcome about: what is done to have calm, what the clause speaks of, and what ends it.</summary>
    /// <param name="Subject">The input that it sets.</param>
    /// <param name="Start">When the story must begin, where that matters.</param>
    /// <param name="Calm">What is done to have calm.</param>
    /// <param name="Asked">What the clause speaks of.</param>
    /// <param name="Back">What ends it.</param>
    /// <param name="Words">The words of the clause that it comes from.</param>
    private sealed record Cause(RecordId? Subject, TestMoment? Start, IReadOnlyList<TestStep> Calm, IReadOnlyList<TestStep> Asked, IReadOnlyList<TestStep> Back, Match? Words = null);

    /// <summary>A test of a clause; null where its words name nothing that can be set and nothing that must follow. No more are tried once whoever asks says that it takes too long.</summary>
    public static Proposal? Of(Project project, Sequence sequence, Clause clause, string id, Func<bool>? tooLong = null)
    {
        if (Typing.Of(sequence, project).Problems.Count > 0) return null;
        var inputs = sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => project.Find<Point>(p.PointId)).OfType<Point>().Where(p => sequence.Commands.All(c => c.PointId != p.Id)).DistinctBy(p => p.Id).ToList();
        Proposal? first = null;
        foreach (FunctionTest test in Tests(project, sequence, clause, inputs, id).Take(MostLives))
        {
            if (ProofBench.Prove(project, sequence, test, null, tooLong).Passed) return new Proposal(test, true);
            first ??= new Proposal(test, false);
            if (tooLong?.Invoke() == true) break;
        }
        return first;
    }

    /// <summary>The tests that come into question, the likeliest first.</summary>
    private static IEnumerable<FunctionTest> Tests(Project project, Sequence sequence, Clause clause, IReadOnlyList<Point> inputs, string id)
    {
        // A clause whose figures are not all tried is not proven: the test says which, and is not tied to it.
        FunctionTest test(IEnumerable<Match?> uses, IEnumerable<TestStep> steps)
        {
            var untried = Untried(clause, [.. uses.OfType<Match>()]);
            TestStep[] note = untried.Count == 0 ? [] : [new NoteStep($"Not tried of the clause: {string.Join(", ", untried.Take(6))}. Tie it to the clause once it is.")];
            return new() { Id = id, Name = Short(clause.Text), Clauses = untried.Count == 0 ? [clause.Id] : [], Steps = [new NoteStep(Short(clause.Text)), .. note, .. steps] };
        }
        Match longer = After().Match(clause.Text);
        double after = longer.Success ? Seconds(longer) : 0;
        foreach (Point scaled in Outputs(project, sequence, clause).Where(p => p.Kind == PointKind.Analog).Take(1))
        {
            var pairs = Pairs(clause, scaled, inputs).ToList();
            if (pairs.Count == 0) continue;
            foreach (var others in Settings(inputs, pairs[0].Subject.Id))
            {
                foreach (TestMoment hour in Hours)
                {
                    yield return test(pairs.Select(p => p.Words), [new StartStep(hour), .. others, .. pairs.SelectMany(p => (TestStep[])[new SetStep(p.In) { Subject = To(p.Subject) }, new ExpectStep(new TestCondition(TestRelation.Between, p.Out - p.By, p.Out + p.By), Patience) { Subject = To(scaled) }])]);
                }
            }
        }
        if (Outcome(project, sequence, clause) is not var (output, state)) yield break;
        var causes = Causes(project, sequence, clause, inputs).ToList();
        foreach (double within in (double[])[Calm, Patience])
        {
            foreach (Cause cause in causes)
            {
                foreach (TestMoment hour in cause.Start is { } start ? [start] : Hours)
                {
                    foreach (var others in Settings(inputs, cause.Subject))
                    {
                        yield return test([cause.Words, longer],
                        [
                            new StartStep(hour), .. others, .. cause.Calm, new WaitUntilStep(Not(state), within) { Subject = To(output) },
                            .. cause.Asked, new ExpectStep(state, within) { Subject = To(output) },
                            .. cause.Back, .. after > 0 ? (TestStep[])[new ExpectStep(state, 0, Math.Floor(after * 0.9)) { Subject = To(output) }] : [],
                            new WaitUntilStep(Not(state), Math.Max(within, Math.Ceiling(after * 0.3))) { Subject = To(output) },
                        ]);
                    }
                }
            }
        }
    }

    /// <summary>The figures of a clause, numbers with a unit and lengths of time, that lie in none of some words.</summary>
    private static IReadOnlyList<string> Untried(Clause clause, IReadOnlyList<Match> used) =>
        [.. Figure().Matches(clause.Text).Where(f => (f.Groups["time"].Success || Unit.Read(f.Groups["unit"].Value) is not null) && !used.Any(u => u.Success && u.Index <= f.Index && f.Index + f.Length <= u.Index + u.Length)).Select(f => f.Value.Trim())];

    private static string Short(string text) => text.Length <= 72 ? text.TrimEnd('.') : text[..(text.LastIndexOf(' ', 72) is > 20 and var end ? end : 72)].TrimEnd(',', ';', ' ') + " …";

    private static TestSubject To(Point point) => new() { PointId = point.Id };

    private static TestCondition Not(TestCondition state) => state.Relation switch
    {
        TestRelation.Above => state with { Relation = TestRelation.Below },
        TestRelation.Below => state with { Relation = TestRelation.Above },
        _ => state with { Value = state.Value > 0.5 ? 0 : 1 },
    };

    /// <summary>The outputs that a clause may be about: those tied to it, or that it names, before the others.</summary>
    private static IEnumerable<Point> Outputs(Project project, Sequence sequence, Clause clause)
    {
        var outputs = sequence.Commands.Select(c => project.Find<Point>(c.PointId)).OfType<Point>().ToList();
        return outputs.Where(p => outputs.Count == 1 || clause.Outputs.Contains(p.Id) || Shared(p.Name, clause.Text) > 0).OrderByDescending(p => clause.Outputs.Contains(p.Id)).ThenByDescending(p => Shared(p.Name, clause.Text));
    }

    /// <summary>The output that a clause is about, and how it must be: by the word for a state that stands nearest behind its name, else before it.</summary>
    private static (Point Output, TestCondition State)? Outcome(Project project, Sequence sequence, Clause clause)
    {
        if (Outputs(project, sequence, clause).FirstOrDefault(p => p.Kind != PointKind.Multistate) is not { } output) return null;
        string[] words = WordsOf(clause.Text), name = WordsOf(output.Name);
        int at = Math.Max(0, Array.FindLastIndex(words, w => name.Any(n => Alike(n, w))));
        bool isState(string w) => Comes.Contains(w) || Goes.Contains(w) || (output.Kind == PointKind.Binary && output.StateTexts.Any(t => t.Equals(w, StringComparison.OrdinalIgnoreCase)));
        int state = Enumerable.Range(0, words.Length).Where(i => isState(words[i]) && !name.Contains(words[i])).OrderBy(i => i >= at ? i - at : at - i + 4).Append(-1).First();
        if (state < 0) return null;
        if (output.Kind == PointKind.Analog) return (output, new TestCondition(Goes.Contains(words[state]) ? TestRelation.Below : TestRelation.Above, Math.Max(1, output.Low ?? 0)));
        int named = output.StateTexts.ToList().FindIndex(t => t.Equals(words[state], StringComparison.OrdinalIgnoreCase));
        return (output, new TestCondition(TestRelation.Is, named >= 0 ? named : Goes.Contains(words[state]) ? 0 : 1));
    }

    /// <summary>What an output is at what an input is, as <em>from 30 % at 600 ppm to fully open at 1000 ppm</em>.</summary>
    private static IEnumerable<(Point Subject, double In, double Out, double By, Match Words)> Pairs(Clause clause, Point output, IReadOnlyList<Point> inputs)
    {
        foreach (Match match in Scaled().Matches(clause.Text))
        {
            if (Unit.Read(match.Groups["unit"].Value) is not { } unit || inputs.FirstOrDefault(p => p.Role == PointRole.Sensor && Unit.Find(p.Unit)?.Quantity == unit.Quantity) is not { } subject || unit.To(Unit.Find(subject.Unit)!) is not var (factor, offset)) continue;
            double at = (double.Parse(match.Groups["in"].Value.Replace('−', '-'), CultureInfo.InvariantCulture) * factor) + offset, low = output.Low ?? 0, high = output.High ?? 100;
            double wanted = match.Groups["out"] is { Success: true, Value: var share } ? double.Parse(share, CultureInfo.InvariantCulture) : match.Groups["full"].Success ? high : low;
            if (subject.IsInRange(at)) yield return (subject, at, wanted, (high - low) / 100, match);
        }
    }

    /// <summary>What may bring it about: a number passed, a limit passed that is a point, the hours, a contact.</summary>
    private static IEnumerable<Cause> Causes(Project project, Sequence sequence, Clause clause, IReadOnlyList<Point> inputs)
    {
        foreach (double share in Beyond)
        {
            foreach (Match match in Threshold().Matches(clause.Text))
            {
                if (Unit.Read(match.Groups["unit"].Value) is not { } unit) continue;
                double number = double.Parse(match.Groups["number"].Value.Replace('−', '-'), CultureInfo.InvariantCulture);
                foreach (Point subject in inputs.Where(p => p.Kind == PointKind.Analog && Unit.Find(p.Unit)?.Quantity == unit.Quantity && (p.Role == PointRole.Sensor || Shared(p.Name, clause.Text) > 0)).OrderByDescending(p => Shared(p.Name, clause.Text)).ThenByDescending(p => p.Role == PointRole.Sensor))
                {
                    if (unit.To(Unit.Find(subject.Unit)!) is var (factor, offset) && Both(subject, (number * factor) + offset, IsUp(match.Groups["side"].Value), share) is { } cause) yield return cause with { Words = match };
                }
            }
            // A limit that is a point of its own, by its name.
            foreach (Point limit in inputs.Where(p => p.Role == PointRole.Setpoint && p.Kind == PointKind.Analog && p.Fallback is not null))
            {
                string name = limit.Name.Contains("setpoint", StringComparison.OrdinalIgnoreCase) ? $"(?:{Regex.Escape(limit.Name)}|setpoint)" : Regex.Escape(limit.Name);
                if (Regex.Match(clause.Text, $@"\b(?<side>{Sides})\b[^.,;]{{0,24}}?\b{name}\b", RegexOptions.IgnoreCase | RegexOptions.NonBacktracking) is not { Success: true } named) continue;
                foreach (Point subject in inputs.Where(p => p.Role == PointRole.Sensor && p.Unit == limit.Unit))
                {
                    if (Both(subject, limit.Fallback!.Value, IsUp(named.Groups["side"].Value), share) is { } cause) yield return cause;
                }
            }
        }
        if (Regex.IsMatch(clause.Text, @"\bhours\b", RegexOptions.IgnoreCase))
            yield return new Cause(null, Hours[1], [], [new GoOnAtStep(Hours[0])], [new GoOnAtStep(new TestMoment { Day = NodaTime.IsoDayOfWeek.Tuesday, Seconds = 23 * 3600 })]);
        foreach (Point contact in inputs.Where(p => p.Kind == PointKind.Binary).OrderByDescending(p => Shared($"{p.Name} {string.Join(' ', p.StateTexts)}", clause.Text)))
        {
            yield return Set(contact, 0, 1);
            yield return Set(contact, 1, 0);
        }
    }

    private static Cause Set(Point subject, double calm, double asked) => new(subject.Id, null, [new SetStep(calm) { Subject = To(subject) }], [new SetStep(asked) { Subject = To(subject) }], [new SetStep(calm) { Subject = To(subject) }]);

    private const string Sides = "above|over|exceeds|exceed|warmer than|hotter than|damper than|more than|higher than|greater than|brighter than|below|under|colder than|cooler than|less than|lower than|drier than|darker than";

    private static bool IsUp(string side) => side.ToLowerInvariant() is not ("below" or "under" or "colder than" or "cooler than" or "less than" or "lower than" or "drier than" or "darker than");

    private static Cause? Both(Point subject, double limit, bool up, double share)
    {
        double by = Math.Max(Math.Abs(limit) * share, 25 * share) * (up ? 1 : -1);
        double asked = Math.Round(limit + by, 2), calm = Math.Round(limit - by, 2);
        return subject.IsInRange(asked) && subject.IsInRange(calm) ? Set(subject, calm, asked) : null;
    }

    /// <summary>What a clause does not name: contacts all open, each closed, all closed; what is measured in the middle, low, high.</summary>
    private static IEnumerable<IReadOnlyList<TestStep>> Settings(IReadOnlyList<Point> inputs, RecordId? subject)
    {
        var contacts = inputs.Where(p => p.Kind == PointKind.Binary && p.Id != subject).ToList();
        var measured = inputs.Where(p => p.Kind == PointKind.Analog && p.Role == PointRole.Sensor && p.Id != subject).ToList();
        foreach (double share in measured.Count > 0 ? (double[])[0.5, 0.2, 0.8] : [0.5])
        {
            for (int closed = -1; closed <= contacts.Count; closed++)
            {
                if (closed == contacts.Count && contacts.Count < 2) break;
                yield return [.. contacts.Select((c, i) => (TestStep)new SetStep(closed == contacts.Count || closed == i ? 1 : 0) { Subject = To(c) }), .. measured.Select(p => new SetStep(Within(p, share)) { Subject = To(p) })];
            }
        }
    }

    // Rooms, air and water are tried at 5, 20 and 35 °C, whatever their sensors could measure.
    private static double Within(Point point, double share) => Unit.Find(point.Unit)?.Quantity == Quantity.Temperature && point.IsInRange(20) ? Math.Clamp(Math.Round(20 + ((share - 0.5) * 50)), point.Low ?? -50, point.High ?? 200) : point is { Low: { } low, High: { } high } ? Math.Round(low + (share * (high - low)), 1) : 0;

    private static double Seconds(Match match)
    {
        string number = match.Groups["number"].Value;
        double count = double.TryParse(number, NumberStyles.Float, CultureInfo.InvariantCulture, out double read) ? read : Words.GetValueOrDefault(number);
        return count * match.Groups["unit"].Value[..1].ToLowerInvariant() switch { "s" => 1, "m" => 60, "h" => 3600, _ => 86_400 };
    }

    private static string[] WordsOf(string text) => [.. Word().Matches(text).Select(m => m.Value.ToLowerInvariant())];

    private static int Shared(string name, string text)
    {
        string[] words = WordsOf(text);
        return WordsOf(name).Count(w => Array.Exists(words, x => Alike(w, x)));
    }

    // Lights are lit by a light.
    private static bool Alike(string one, string other) => one.Length > 2 && (other.StartsWith(one, StringComparison.Ordinal) || (other.Length > 3 && one.StartsWith(other, StringComparison.Ordinal)));

    [GeneratedRegex(@"\b(?<side>" + Sides + @")\s+(?:about\s+)?(?<number>[-−]?\d+(?:\.\d+)?)\s*(?<unit>[^\s.,;]+)", RegexOptions.IgnoreCase)]
    private static partial Regex Threshold();

    [GeneratedRegex(@"(?:\b(?<out>\d+(?:\.\d+)?)\s*%|\b(?<full>fully open)|\b(?:shut|closed))\s+at\s+(?<in>[-−]?\d+(?:\.\d+)?)\s*(?<unit>[^\s.,;]+)", RegexOptions.IgnoreCase)]
    private static partial Regex Scaled();

    [GeneratedRegex(@"\b(?<number>\d+(?:\.\d+)?|half an?|an?|one|two|three|four|five|six|eight|ten|twelve|fifteen|twenty|thirty)\s+(?<unit>s|seconds?|min|minutes?|h|hours?|d|days?)\s+(?:after|longer|more)\b", RegexOptions.IgnoreCase)]
    private static partial Regex After();

    [GeneratedRegex(@"(?<![\p{L}\d])(?:[-−]?\d+(?:\.\d+)?\s*(?:(?<time>s|seconds?|min|minutes?|h|hours?|d|days?)(?![\p{L}])|(?<unit>[%°‰\p{L}][^\s.,;:]*))|(?:half an?|two|three|four|five|six|eight|ten|twelve|fifteen|twenty|thirty)\s+(?<time>seconds?|minutes?|hours?|days?))", RegexOptions.IgnoreCase)]
    private static partial Regex Figure();

    [GeneratedRegex(@"[\p{L}\d]+")]
    private static partial Regex Word();
}
