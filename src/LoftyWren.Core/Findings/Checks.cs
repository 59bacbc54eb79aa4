using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.OlderPrograms;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Findings;

/// <summary>
/// The checks. Each looks at one record and at what lies close to it: a point at its source and at who commands it, a
/// sequence at its points, their sources and who else claims them, a controller at its fittings and their trends. An edit
/// re-checks who looks at it (<see cref="FindingsIndex"/>); a check that looks further says so there.
/// </summary>
public static class Checks
{
    /// <summary>All findings on one record: those that its kind declares.</summary>
    public static IEnumerable<Finding> On(Project project, ProjectRecord record) => RecordKinds.Of(record).Check(project, record);

    /// <summary>The checks of a point.</summary>
    internal static IEnumerable<Finding> OnPoint(Project project, Point point) => Itself(project, point).Concat(Masked(project, point));

    /// <summary>The checks of a sequence.</summary>
    internal static IEnumerable<Finding> OnSequence(Project project, Sequence sequence) => Itself(project, sequence).Concat(SequenceChecks.On(project, sequence)).Concat(Masked(project, sequence)).Concat(CutShort(project, sequence)).Concat(Older(sequence));

    private static IEnumerable<Finding> Older(Sequence sequence)
    {
        if (ProgramConversion.IsOlder(sequence))
            yield return new Finding($"older-program|{sequence.Id}", "older-program", Severity.Low, sequence.Id, $"‘{sequence.Name}’ was written with an older version.",
                "Its older blocks run as they did. Program › Older programs shows what converting them would change, before anything is.");
    }

    /// <summary>The findings on a record's tags: two rules that give one tag different values.</summary>
    public static IEnumerable<Finding> OnTags(Project project, TaggedRecord record, TaggingRules rules)
    {
        var conflicts = new List<TagConflict>();
        rules.Derive(project, record, conflicts);
        return conflicts.Select(c => new Finding($"tag-conflict|{record.Id}|{c.Winner.Name}|{c.Loser.Id}", "tag-conflict", Severity.Medium, record.Id,
            $"Two tagging rules disagree on the tag {c.Winner.Name} of ‘{record.Name}’.",
            $"The first gives {c.Winner.Value} ({c.Winner.Why}); rule ‘{c.Loser.Name}’ would give {c.Value}. The first one wins. Narrow one of their conditions."));
    }

    /// <summary>The findings on a record's name and on the name networks show for it: departures from the convention.</summary>
    public static IEnumerable<Finding> OnName(Project project, ProjectRecord record, Naming naming, NameIndex names)
    {
        if (naming.Check(project, record, names) is { } departure)
            yield return new Finding($"name|{record.Id}", "name", Severity.Low, record.Id,
                $"The name ‘{record.Name}’ {departure.Why}.",
                departure.Proposed is { } proposed ? $"By the naming convention this {record.Noun} would be called ‘{proposed}’." : "No name can be worked out for it: give it a shorter one, or change the naming convention.")
            { Fixes = Ways(departure.Proposed is null ? null : new Fix($"Rename ‘{record.Name}’ to ‘{departure.Proposed}’", [Edit.Of(record with { Name = departure.Proposed }, project.FindEntry(record.Id)!.Revision)])) };
        if (record is Point point && naming.CheckNetwork(project, point, names) is { } clash)
            yield return new Finding($"network-name|{point.Id}", "network-name", Severity.Medium, point.Id, $"The network name of ‘{point.Name}’ cannot stand.", clash);
    }

    /// <summary>The findings on the words of a record's name and description: those that neither the word list nor the project knows.</summary>
    public static IEnumerable<Finding> OnWords(Project project, ProjectRecord record, Spelling spelling)
    {
        foreach (var (field, text) in Spelling.Texts(record))
        {
            foreach (UnknownWord unknown in spelling.Unknown(text).DistinctBy(u => u.Word.ToLowerInvariant()))
            {
                NamingConvention convention = NamingConvention.Of(project) ?? NamingConvention.Empty;
                Fix own = new($"Add ‘{unknown.Word}’ to the project's words", [Edit.Of(convention with { Words = [.. convention.Words, unknown.Word.ToLowerInvariant()] }, project.FindEntry(convention.Id)?.Revision ?? 0)]);
                Fix? right = unknown.Suggestion is { } to ? new Fix($"Write ‘{to}’", [Edit.Of(Spelling.Correct(record, unknown.Word, to), project.FindEntry(record.Id)!.Revision)]) : null;
                yield return new Finding($"spelling|{record.Id}|{field}|{unknown.Word.ToLowerInvariant()}", "spelling", Severity.Low, record.Id,
                    $"‘{unknown.Word}’ in the {field} of ‘{record.Name}’ is not in the word list.",
                    unknown.Suggestion is null ? "If it is meant, add it to the project's own words." : $"It may be meant to be ‘{unknown.Suggestion}’. If it is right, add it to the project's own words.")
                { Fixes = Ways(right, own) };
            }
        }
    }

    /// <summary>The ways there are, those that do not offer themselves left out.</summary>
    private static Fix[] Ways(params Fix?[] ways) => [.. ways.OfType<Fix>()];

    private static IEnumerable<Finding> Itself(Project project, Point point)
    {
        if (project.BindingOf(point.Id) is null)
        {
            bool used = project.Referrers<Sequence>(point.Id).Any() || project.Referrers<Schedule>(point.Id).Any();
            yield return new Finding($"no-source|{point.Id}", "no-source", used ? Severity.High : Severity.Medium, point.Id,
                $"‘{point.Name}’ has no source.",
                point.Role == PointRole.Sensor ? "It is on no terminal, so it will never have a value." : "It is on no terminal and in no controller's memory, so nothing can command it.")
            { Fixes = Ways(Home(project, point)) };
        }
        bool IsCommanded() => project.Referrers<Schedule>(point.Id).Any() || project.Referrers<Sequence>(point.Id).Any(s => s.Commands.Any(c => c.PointId == point.Id && c.Claims.Count > 0));
        if (point.Role == PointRole.Command && !IsCommanded() && !Bus.BusChecks.IsCommanded(project, point))
            yield return new Finding($"not-commanded|{point.Id}", "not-commanded", Severity.Medium, point.Id, $"Nothing commands ‘{point.Name}’.", "No sequence and no schedule claims it, so it stays at its fallback for ever.");
        if (point.Role is PointRole.Command or PointRole.Setpoint && point.Fallback is null)
            yield return new Finding($"no-fallback|{point.Id}", "no-fallback", Severity.Low, point.Id, $"‘{point.Name}’ has no fallback.", "When every claim is released it has no value at all, and what reads it stops.")
            { Fixes = Ways(point.Kind == PointKind.Binary ? new Fix($"Set the fallback of ‘{point.Name}’ to {point.StateTexts[0]}", [Edit.Of(point with { Fallback = 0 }, project.FindEntry(point.Id)!.Revision)]) : null) };
    }

    /// <summary>For a value or setpoint that exactly one controller's logic uses, a place in that controller's memory.</summary>
    private static Fix? Home(Project project, Point point)
    {
        if (!Fitting.IsForMemory(point)) return null;
        var controllers = project.Referrers<Sequence>(point.Id).Select(s => s.ControllerId).OfType<RecordId>().Distinct().Take(2).ToList();
        return controllers.Count == 1 && project.Find<Controller>(controllers[0]) is { } controller
            ? new Fix($"Put ‘{point.Name}’ into the memory of {controller.Name}", [Edit.Of(Fit.Make(project, controller, point, Fitting.MemoryTerminal)!, 0)])
            : null;
    }

    /// <summary>The checks of a controller.</summary>
    internal static IEnumerable<Finding> OnController(Project project, Controller controller)
    {
        foreach (var (key, what, why) in Enclosure.Of(project, controller).Troubles(controller)) yield return new Finding($"{key}|{controller.Id}", key.Split('|')[0], Severity.High, controller.Id, what, why);
        if (NetworkSettings.RouterTrouble(controller.Address, controller.PrefixLength, controller.Router) is { } router)
            yield return new Finding($"router|{controller.Id}", "router", Severity.High, controller.Id, $"{controller.Name} would not reach other networks.", $"With address {controller.Address}, {router}. Correct one of them.");
        if (!controller.StartsAfterPower)
            yield return new Finding($"stays-down|{controller.Id}", "stays-down", Severity.Medium, controller.Id, $"{controller.Name} stays down after a power cut.", "Its program does not start by itself when the supply comes back; somebody has to start it. If that is not meant, let it start.") { Fixes = Ways(new Fix($"Let {controller.Name} start by itself", [Edit.Of(controller with { StartsAfterPower = true }, project.FindEntry(controller.Id)!.Revision)])) };
        if (ControllerLoad.Of(project, controller) is { Much: { } much } load)
            yield return new Finding($"load|{controller.Id}", "load", load.Share > 1 ? Severity.High : Severity.Medium, controller.Id, load.Share > 1 ? $"{controller.Name} has more to calculate than it can." : $"{controller.Name} has nearly as much to calculate as it can.", much);
        if (ControllerMemory.Of(project, controller) is not { } memory) yield break;
        if (memory.ValuesOver is { } values) yield return new Finding($"memory-values|{controller.Id}", "memory-values", Severity.High, controller.Id, $"{controller.Name} has more values than memory.", values);
        if (memory.SamplesOver is { } samples) yield return new Finding($"memory-samples|{controller.Id}", "memory-samples", Severity.High, controller.Id, $"The trend logs on {controller.Name} need more memory than it has.", samples);
    }

    /// <summary>The checks of a terminal: what it switches against what it is rated for, and its feed against what that gives.</summary>
    internal static IEnumerable<Finding> OnFitting(Project project, Fitting fitting)
    {
        if (fitting.LoadAmps is not { } amps || project.Find<Controller>(fitting.ControllerId) is not { } controller || PanelTerminals.Find(project, controller, fitting.Terminal) is not { } place) yield break;
        string terminal = $"{controller.Name} {fitting.Terminal}";
        if (place.Group.MostAmps is { } most && amps > most)
            yield return new Finding($"overload|{fitting.Id}", "overload", Severity.High, fitting.Id, $"{terminal} would switch more than it is made for.", FormattableString.Invariant($"‘{project.Find(fitting.PointId)?.Name}’ takes {amps:0.##} A and the output is rated for {most:0.##} A. Put a contactor between, or use another output."));
        if (place.Group.FeedAmps is not { } feed || place.Group.FeedOf < 2) yield break;
        int number = place.Group.FeedAt(place.Number);
        string before = place.Module is { } module ? PanelTerminals.Prefix(module.Address) : "";
        double sum = 0;
        for (int n = ((number - 1) * place.Group.FeedOf) + 1; n <= Math.Min(place.Group.Count, number * place.Group.FeedOf); n++)
            sum += project.Find<Fitting>(project.Holder(Fitting.TerminalKey(controller.Id, $"{before}{place.Group.Prefix}{n}")))?.LoadAmps ?? 0;
        if (sum > feed)
            yield return new Finding($"feed|{fitting.Id}", "feed", Severity.High, fitting.Id, $"The feed of {terminal} would carry more than it is made for.", FormattableString.Invariant($"The outputs that share it take {sum:0.##} A together and it carries {feed:0.##} A. Move one of them to another feed."));
    }

    private static IEnumerable<Finding> Itself(Project project, Sequence sequence)
    {
        if (sequence.ControllerId is null)
            yield return new Finding($"no-controller|{sequence.Id}", "no-controller", Severity.High, sequence.Id, $"‘{sequence.Name}’ runs on no controller.", "It is part of no image, so it will never be calculated. Choose a controller for it.");
        foreach (Block block in sequence.Blocks)
        {
            foreach (Pin pin in BlockType.Of(block).Inputs.Where(p => p.Required && !block.Inputs.ContainsKey(p.Name)))
            {
                yield return new Finding($"open-input|{sequence.Id}|{block.Id}|{pin.Name}", "open-input", Severity.High, sequence.Id,
                    $"Input ‘{pin.Label}’ of ‘{block.Called()}’ is not connected.", "An open input is released, so the block says nothing.");
            }
        }
        foreach (OutputCommand command in sequence.Commands)
        {
            string name = project.Find(command.PointId)?.Name ?? "an output";
            if (command.Claims.Count == 0)
                yield return new Finding($"no-claims|{sequence.Id}|{command.PointId}", "no-claims", Severity.Medium, sequence.Id, $"‘{name}’ is listed in ‘{sequence.Name}’ but has no claim.", "The sequence never commands it.");
            foreach (Claim claim in command.Claims.Where(c => c.Source is null))
                yield return new Finding($"open-claim|{sequence.Id}|{command.PointId}|{claim.Priority}", "open-claim", Severity.High, sequence.Id, $"Claim {claim.Priority} on ‘{name}’ is not connected.", "It can never speak.");
            if (sequence.ControllerId is { } on && project.BindingOf(command.PointId) is { } home && home.HostId != on)
                yield return new Finding($"elsewhere|{sequence.Id}|{command.PointId}", "elsewhere", Severity.High, sequence.Id,
                    $"‘{name}’ is on {project.Find(home.HostId)?.Name}, but ‘{sequence.Name}’ runs on {project.Find(on)?.Name}.", "A sequence can only command outputs of its own controller. Move the sequence or the point.");
        }
        foreach (var (clause, number) in sequence.Clauses.Select((c, i) => (c, i + 1)).Where(c => !c.c.IsMetIn(sequence)))
            yield return new Finding($"clause-unmet|{sequence.Id}|{clause.Id}", "clause-unmet", Severity.Low, sequence.Id, $"Nothing meets clause {number} of ‘{sequence.Name}’.", $"“{(clause.Text.Length > 120 ? clause.Text[..120] + "…" : clause.Text)}” Name the blocks or outputs that meet it, or build them.");
        foreach (PointSource source in sequence.Sources().Select(s => s.Source).OfType<PointSource>().Distinct())
        {
            if (project.BindingOf(source.PointId) is null && project.Find<Point>(source.PointId) is { } point)
                yield return new Finding($"reads-nothing|{sequence.Id}|{point.Id}", "reads-nothing", Severity.High, sequence.Id, $"‘{sequence.Name}’ reads ‘{point.Name}’, which is never wired.", "The input stays released, and what depends on it says nothing.") { Fixes = Ways(Home(project, point)) };
        }
    }

    /// <summary>A claim that never releases hides every weaker one for ever: the weaker can never speak.</summary>
    private static IEnumerable<Finding> Masked(Project project, Sequence sequence)
    {
        // What is inside a mode table or an own block decides whether it releases.
        Sequence plain = PlainBlocks.Of(sequence).Plain;
        foreach (var (command, calculated) in sequence.Commands.Zip(plain.Commands))
        {
            if (project.Find<Point>(command.PointId) is not { } point) continue;
            foreach (Claim claim in command.Claims.Where((_, i) => calculated.Claims[i].Source is { } source && NeverReleases(project, plain, source, 0)))
            {
                foreach (var (priority, label) in ClaimsOn(project, point).Where(c => c.Priority > claim.Priority).OrderBy(c => c.Priority))
                {
                    string mine = string.IsNullOrWhiteSpace(claim.Label) ? sequence.Name : claim.Label;
                    yield return new Finding($"masked-claim|{sequence.Id}|{point.Id}|{claim.Priority}|{priority}", "masked-claim", Severity.High, sequence.Id,
                        $"On ‘{point.Name}’, claim {priority} ‘{label}’ can never speak.",
                        $"Claim {claim.Priority} ‘{mine}’ is stronger and never releases: it always says one state or the other. Let it release when idle, or give it a weaker priority.")
                    { Fixes = Ways(ReleaseWhenIdle(project, sequence, claim)) };
                }
            }
        }
    }

    /// <summary>The same of the schedules that drive a point. It is said of the point: a schedule can drive thousands.</summary>
    private static IEnumerable<Finding> Masked(Project project, Point point)
    {
        foreach (Schedule schedule in project.Referrers<Schedule>(point.Id).Where(s => s.Default is not null))
        {
            foreach (Drive drive in schedule.DrivesOn(point.Id))
            {
                foreach (var (priority, label) in ClaimsOn(project, point).Where(c => c.Priority > drive.Priority).OrderBy(c => c.Priority))
                    yield return new Finding($"masked-claim|{schedule.Id}|{point.Id}|{drive.Priority}|{priority}", "masked-claim", Severity.High, point.Id,
                        $"On ‘{point.Name}’, claim {priority} ‘{label}’ can never speak.",
                        $"Schedule ‘{schedule.Name}’ claims at {drive.Priority} and never releases, since its default is {schedule.Say(schedule.Default)}. Let its default be released, or give it a weaker priority.");
            }
        }
    }

    /// <summary>Minimum times hold only as far as what they say reaches the machine: not through another block, nor under a stronger claim.</summary>
    private static IEnumerable<Finding> CutShort(Project project, Sequence designed)
    {
        Sequence sequence = PlainBlocks.Of(designed).Plain;
        foreach (Block block in sequence.Blocks.Where(b => BlockType.Of(b.Kind).HoldsTimes))
        {
            var direct = sequence.Commands.SelectMany(c => c.Claims.Select(k => (c.PointId, Claim: k))).Where(c => c.Claim.Source is BlockSource s && s.BlockId == block.Id).ToList();
            if (direct.Count == 0 && sequence.Blocks.FirstOrDefault(b => b.Inputs.Values.OfType<BlockSource>().Any(s => s.BlockId == block.Id)) is { } next)
                yield return new Finding($"cut-short|{sequence.Id}|{block.Id}", "cut-short", Severity.Medium, sequence.Id,
                    $"‘{next.Called()}’ stands between ‘{block.Called()}’ and the output.", "It can end a state before its minimum time is over. Let the minimum times be the last block before the claim.");
            foreach (var (pointId, claim) in direct)
            {
                if (project.Find<Point>(pointId) is not { } point || ClaimsOn(project, point).Where(c => c.Priority < claim.Priority).OrderBy(c => c.Priority).Select(c => $"{c.Priority} ‘{c.Label}’").FirstOrDefault() is not { } stronger) continue;
                yield return new Finding($"cut-short|{sequence.Id}|{block.Id}|{pointId}", "cut-short", Severity.Low, sequence.Id,
                    $"Claim {stronger} on ‘{point.Name}’ can cut the times of ‘{block.Called()}’ short.", $"It is stronger than claim {claim.Priority}, where the minimum times speak. That is right for a safety; otherwise bring it in before the minimum times.");
            }
        }
    }

    private static Fix? ReleaseWhenIdle(Project project, Sequence sequence, Claim claim)
    {
        if (claim.Source is not BlockSource source || sequence.Blocks.FirstOrDefault(b => b.Id == source.BlockId) is not { } block || BlockType.Of(block.Kind).Releasing is not { } releasing) return null;
        var choices = new Dictionary<string, string>(block.Choices) { [releasing.Name] = releasing.Option };
        Sequence mended = sequence with { Blocks = [.. sequence.Blocks.Select(b => b == block ? b with { Choices = choices } : b)] };
        return new Fix($"Let ‘{block.Called()}’ release when idle", [Edit.Of(mended, project.FindEntry(sequence.Id)!.Revision)]);
    }

    /// <summary>Every claim on a point, of sequences and schedules.</summary>
    public static IEnumerable<(int Priority, string Label)> ClaimsOn(Project project, Point point)
    {
        foreach (Sequence sequence in project.Referrers<Sequence>(point.Id))
        {
            foreach (Claim claim in sequence.Commands.Where(c => c.PointId == point.Id).SelectMany(c => c.Claims))
                yield return (claim.Priority, string.IsNullOrWhiteSpace(claim.Label) ? sequence.Name : claim.Label);
        }
        foreach (Schedule schedule in project.Referrers<Schedule>(point.Id))
        {
            foreach (Drive drive in schedule.DrivesOn(point.Id)) yield return (drive.Priority, schedule.Name);
        }
    }

    /// <summary>
    /// Whether a source of a sequence in plain blocks always says something while its sensors are well. A fault still releases: that is a matter of
    /// status, not of design. Points are taken to speak: a sensor always does, a commanded point through its fallback.
    /// </summary>
    public static bool NeverReleases(Project project, Sequence sequence, Source source, int depth)
    {
        if (depth > 50) return true;
        switch (source)
        {
            case ConstantSource:
                return true;
            case PointSource p:
                return project.Find<Point>(p.PointId) is { } point && (point.Role == PointRole.Sensor || point.Fallback is not null);
            case ScheduleSource { Ahead: true }:
                return false;
            case ScheduleSource s:
                return project.Find<Schedule>(s.ScheduleId)?.Default is not null;
            case BlockSource b:
                if (sequence.Blocks.FirstOrDefault(x => x.Id == b.BlockId) is not { } block) return false;
                BlockType definition = BlockType.Of(block.Kind);
                BlockSpeech speech = definition.Speaks?.Invoke(definition, block) ?? BlockSpeech.WithInputs;
                if (speech != BlockSpeech.WithInputs) return speech == BlockSpeech.Always;
                if (definition.Inputs.Any(i => i.Required && !block.Inputs.ContainsKey(i.Name))) return false;
                return block.Inputs.Values.All(i => NeverReleases(project, sequence, i, depth + 1));
            default:
                return false;
        }
    }

    /// <summary>The checks of a schedule.</summary>
    internal static IEnumerable<Finding> OnSchedule(Project project, Schedule schedule)
    {
        bool read = schedule.Drives.Count > 0 || project.Referrers<Sequence>(schedule.Id).Any();
        if (!read) yield return new Finding($"idle-schedule|{schedule.Id}", "idle-schedule", Severity.Low, schedule.Id, $"‘{schedule.Name}’ drives nothing.", "It claims no output and no sequence reads it.");
        if (schedule.Week.All(g => g.Spans.Count == 0) && schedule.Exceptions.Count == 0)
            yield return new Finding($"empty-schedule|{schedule.Id}", "empty-schedule", Severity.Medium, schedule.Id, $"‘{schedule.Name}’ is {schedule.Say(schedule.Default)} all week.", "It has no stretches yet. Type a phrase such as “tue-fri 9:00-17:30 open”.");
    }
}
