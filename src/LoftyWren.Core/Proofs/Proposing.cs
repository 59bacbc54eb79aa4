using System.Globalization;
using System.Text.RegularExpressions;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
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
    private const int MostLives = 96;
    private const double Calm = 30, Patience = 1200;

    private static readonly Dictionary<string, double> Words = new(StringComparer.OrdinalIgnoreCase)
    {
        ["a"] = 1, ["an"] = 1, ["one"] = 1, ["two"] = 2, ["three"] = 3, ["four"] = 4, ["five"] = 5, ["six"] = 6, ["eight"] = 8, ["ten"] = 10, ["twelve"] = 12, ["fifteen"] = 15, ["twenty"] = 20, ["thirty"] = 30, ["half an"] = 0.5, ["half a"] = 0.5,
    };

    private static readonly string[] Comes = ["run", "runs", "on", "start", "starts", "open", "opens", "lit", "light", "lights", "fires", "works", "enabled", "enables"], Goes = ["stop", "stops", "off", "close", "closes", "closed", "shut", "stands", "rests", "disabled", "takes"];

    // How far beyond a number is tried, as a share of it: past any differential in the end.
    private static readonly double[] Beyond = [0.02, 0.1, 0.3];

    private static readonly TestMoment[] Hours = [new() { Day = NodaTime.IsoDayOfWeek.Tuesday, Seconds = 11 * 3600 }, new() { Day = NodaTime.IsoDayOfWeek.Tuesday, Seconds = 3 * 3600 }];

    /// <summary>A test of a clause; null where its words name nothing that can be set and nothing that must follow.</summary>
    public static Proposal? Of(Project project, Sequence sequence, Clause clause, string id)
    {
        if (Typing.Of(sequence, project).Problems.Count > 0 || Outcome(project, sequence, clause) is not var (output, state)) return null;
        var inputs = sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => project.Find<Point>(p.PointId)).OfType<Point>().Where(p => sequence.Commands.All(c => c.PointId != p.Id)).DistinctBy(p => p.Id).ToList();
        var contacts = inputs.Where(p => p.Kind == PointKind.Binary).ToList();
        double after = After().Match(clause.Text) is { Success: true } longer ? Seconds(longer) : 0;
        Proposal? first = null;
        int lives = 0;
        foreach (var (subject, calm, asked) in Causes(project, clause, inputs))
        {
            foreach (double within in (double[])[Calm, Patience])
            {
                foreach (TestMoment hour in Hours)
                {
                    foreach (IReadOnlyDictionary<Point, double> others in Settings([.. contacts.Where(c => c.Id != subject.Id)]))
                    {
                        if (lives++ >= MostLives) return first;
                        var steps = new List<TestStep> { new NoteStep(Short(clause.Text)), new StartStep(hour) };
                        steps.AddRange(others.Select(o => new SetStep(o.Value) { Subject = To(o.Key) }));
                        steps.AddRange(inputs.Where(p => p.Kind == PointKind.Analog && p.Role == PointRole.Sensor && p.Id != subject.Id).Select(p => new SetStep(Middle(p)) { Subject = To(p) }));
                        steps.Add(new SetStep(calm) { Subject = To(subject) });
                        steps.Add(new WaitUntilStep(Not(state), within) { Subject = To(output) });
                        steps.Add(new SetStep(asked) { Subject = To(subject) });
                        steps.Add(new ExpectStep(state, within) { Subject = To(output) });
                        steps.Add(new SetStep(calm) { Subject = To(subject) });
                        if (after > 0) steps.Add(new ExpectStep(state, 0, Math.Floor(after * 0.9)) { Subject = To(output) });
                        steps.Add(new WaitUntilStep(Not(state), Math.Max(within, Math.Ceiling(after * 0.3))) { Subject = To(output) });
                        var test = new FunctionTest { Id = id, Name = Short(clause.Text), Clauses = [clause.Id], Steps = steps };
                        bool passes = ProofBench.Prove(project, sequence, test).Passed;
                        if (passes) return new Proposal(test, true);
                        first ??= new Proposal(test, false);
                    }
                }
            }
        }
        return first;
    }

    private static string Short(string text) => text.Length <= 72 ? text.TrimEnd('.') : text[..(text.LastIndexOf(' ', 72) is > 20 and var end ? end : 72)].TrimEnd(',', ';', ' ') + " …";

    private static TestSubject To(Point point) => new() { PointId = point.Id };

    private static TestCondition Not(TestCondition state) => state.Relation switch
    {
        TestRelation.Above => new TestCondition(TestRelation.Between, -1e6, state.Value),
        _ => new TestCondition(TestRelation.Is, state.Value > 0.5 ? 0 : 1),
    };

    /// <summary>The output that a clause is about, and how it must be.</summary>
    private static (Point Output, TestCondition State)? Outcome(Project project, Sequence sequence, Clause clause)
    {
        var outputs = sequence.Commands.Select(c => project.Find<Point>(c.PointId)).OfType<Point>().ToList();
        Point? output = outputs.OrderByDescending(p => clause.Outputs.Contains(p.Id)).ThenByDescending(p => Shared(p.Name, clause.Text)).FirstOrDefault();
        if (output is null || (outputs.Count > 1 && !clause.Outputs.Contains(output.Id) && Shared(output.Name, clause.Text) == 0)) return null;
        string[] words = WordsOf(clause.Text);
        if (output.Kind == PointKind.Analog) return Array.Exists(words, Comes.Contains) ? (output, new TestCondition(TestRelation.Above, Math.Max(1, output.Low ?? 0))) : null;
        if (output.Kind != PointKind.Binary) return null;
        int state = Array.FindIndex(words, w => Comes.Contains(w) || Goes.Contains(w) || output.StateTexts.Any(t => t.Equals(w, StringComparison.OrdinalIgnoreCase)));
        if (state < 0) return null;
        int named = output.StateTexts.ToList().FindIndex(t => t.Equals(words[state], StringComparison.OrdinalIgnoreCase));
        return (output, new TestCondition(TestRelation.Is, named >= 0 ? named : Goes.Contains(words[state]) ? 0 : 1));
    }

    /// <summary>What brings it about: an input, where it lies in calm, and where it is when the clause speaks.</summary>
    private static IEnumerable<(Point Subject, double Calm, double Asked)> Causes(Project project, Clause clause, IReadOnlyList<Point> inputs)
    {
        foreach (double share in Beyond)
        {
            foreach (Match match in Threshold().Matches(clause.Text))
            {
                if (Unit.Read(match.Groups["unit"].Value) is not { } unit) continue;
                double number = double.Parse(match.Groups["number"].Value.Replace('−', '-'), CultureInfo.InvariantCulture);
                foreach (Point subject in inputs.Where(p => p.Kind == PointKind.Analog && Unit.Find(p.Unit)?.Quantity == unit.Quantity && (p.Role == PointRole.Sensor || Shared(p.Name, clause.Text) > 0)).OrderByDescending(p => Shared(p.Name, clause.Text)).ThenByDescending(p => p.Role == PointRole.Sensor))
                {
                    if (unit.To(Unit.Find(subject.Unit)!) is var (factor, offset) && Both(subject, (number * factor) + offset, IsUp(match.Groups["side"].Value), share) is { } cause) yield return cause;
                }
            }
            // A limit that is a point of its own, by its name.
            foreach (Point limit in inputs.Where(p => p.Role == PointRole.Setpoint && p.Kind == PointKind.Analog && p.Fallback is not null))
            {
                if (Regex.Match(clause.Text, $@"\b(?<side>{Sides})\b[^.,;]{{0,24}}?\b{Regex.Escape(limit.Name)}\b", RegexOptions.IgnoreCase | RegexOptions.NonBacktracking) is not { Success: true } named) continue;
                foreach (Point subject in inputs.Where(p => p.Role == PointRole.Sensor && p.Unit == limit.Unit))
                {
                    if (Both(subject, limit.Fallback!.Value, IsUp(named.Groups["side"].Value), share) is { } cause) yield return cause;
                }
            }
        }
        foreach (Point contact in inputs.Where(p => p.Kind == PointKind.Binary).OrderByDescending(p => Shared($"{p.Name} {string.Join(' ', p.StateTexts)}", clause.Text)))
        {
            yield return (contact, 0, 1);
            yield return (contact, 1, 0);
        }
    }

    private const string Sides = "above|over|exceeds|exceed|warmer than|hotter than|damper than|more than|higher than|greater than|brighter than|below|under|colder than|cooler than|less than|lower than|drier than|darker than";

    private static bool IsUp(string side) => side.ToLowerInvariant() is not ("below" or "under" or "colder than" or "cooler than" or "less than" or "lower than" or "drier than" or "darker than");

    private static (Point, double, double)? Both(Point subject, double limit, bool up, double share)
    {
        double by = Math.Max(Math.Abs(limit) * share, 25 * share) * (up ? 1 : -1);
        double asked = Math.Round(limit + by, 2), calm = Math.Round(limit - by, 2);
        return subject.IsInRange(asked) && subject.IsInRange(calm) ? (subject, calm, asked) : null;
    }

    /// <summary>Contacts that a clause does not name: all open, then each closed.</summary>
    private static IEnumerable<IReadOnlyDictionary<Point, double>> Settings(IReadOnlyList<Point> contacts)
    {
        yield return contacts.ToDictionary(c => c, _ => 0.0);
        for (int i = 0; i < contacts.Count; i++) yield return contacts.ToDictionary(c => c, c => ReferenceEquals(c, contacts[i]) ? 1.0 : 0.0);
        if (contacts.Count > 1) yield return contacts.ToDictionary(c => c, _ => 1.0);
    }

    private static double Middle(Point point) => point is { Low: { } low, High: { } high } ? Math.Round((low + high) / 2, 1) : Unit.Find(point.Unit)?.Quantity == Quantity.Temperature ? 20 : 0;

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
        return WordsOf(name).Count(w => w.Length > 2 && Array.Exists(words, x => x.StartsWith(w, StringComparison.Ordinal) || w.StartsWith(x, StringComparison.Ordinal) && x.Length > 3));
    }

    [GeneratedRegex(@"\b(?<side>" + Sides + @")\s+(?:about\s+)?(?<number>[-−]?\d+(?:\.\d+)?)\s*(?<unit>[^\s.,;]+)", RegexOptions.IgnoreCase)]
    private static partial Regex Threshold();

    [GeneratedRegex(@"\b(?<number>\d+(?:\.\d+)?|half an?|an?|one|two|three|four|five|six|eight|ten|twelve|fifteen|twenty|thirty)\s+(?<unit>s|seconds?|min|minutes?|h|hours?|d|days?)\s+(?:after|longer|more)\b", RegexOptions.IgnoreCase)]
    private static partial Regex After();

    [GeneratedRegex(@"[\p{L}\d]+")]
    private static partial Regex Word();
}
