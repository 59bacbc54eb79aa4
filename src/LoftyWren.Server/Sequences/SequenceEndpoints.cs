using LoftyWren.Core.Controllers;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>A sequence in a list: how many of its clauses are met, how often it is scanned, whether it runs, and what it commands (the first ten by name).</summary>
public sealed record SequenceLine(RecordId Id, string Name, string Path, string Equipment, string? Controller, int Blocks, int Commands, IReadOnlyList<OutputName> Outputs, int Clauses, int Met, double ScanSeconds, SequenceState State, int Findings);

/// <summary>An output that a sequence commands, with where it is.</summary>
public sealed record OutputName(RecordId PointId, string Name);

/// <summary>How a sequence stands on the site.</summary>
public enum SequenceState
{
    /// <summary>It belongs to no controller.</summary>
    Homeless,
    /// <summary>Its controller runs nothing yet.</summary>
    NotSent,
    /// <summary>Its controller runs, but not what is designed now.</summary>
    Ahead,
    /// <summary>Its controller runs the design.</summary>
    Runs,
}

/// <summary>A sequence as its diagram needs it.</summary>
public sealed record SequenceView(
    Sequence Sequence, long Revision, string Path, string Equipment, string? Controller,
    IReadOnlyList<SourceName> Reads, IReadOnlyList<PinType> Pins, IReadOnlyList<LineConversion> Conversions, IReadOnlyList<SettingUnit> SettingUnits, IReadOnlyList<TextOffer> TextOffers,
    IReadOnlyList<LadderDesign> Ladders, IReadOnlyList<FindingView> Findings, IReadOnlyList<BlockShape> Shapes);

/// <summary>The kind of a block whose pins are its own: a mode table, an own block.</summary>
public sealed record BlockShape(string BlockId, BlockType Definition);

/// <summary>A mode table on the site; nothing where it does not run.</summary>
public sealed record ModesNow(ModesView? Now);

/// <summary>A point or schedule that the sequence reads, with the live id to watch.</summary>
public sealed record SourceName(string Key, string Name, string Path, string? Where, string LiveId, RecordId RecordId);

/// <summary>What an output pin carries.</summary>
public sealed record PinType(string BlockId, string Pin, string Type);

/// <summary>The unit that a number setting of a block is given in, or a column of a table: that by the table's name, a point, and x or y.</summary>
public sealed record SettingUnit(string BlockId, string Setting, string Unit);

/// <summary>The texts that would do for a text setting of a block.</summary>
public sealed record TextOffer(string BlockId, string Setting, IReadOnlyList<string> Offers);

/// <summary>A conversion on a line, shown where it happens; what arrives is the value times the factor plus the offset.</summary>
public sealed record LineConversion(string BlockId, string Pin, string Text, double Factor, double Offset, string To);

/// <summary>The ladder of an output as designed, every claimant included.</summary>
public sealed record LadderDesign(RecordId PointId, string Name, string Path, IReadOnlyList<DesignRung> Rungs, string Fallback, string? Where, int? FreePriority);

/// <summary>The ladder of an output as it stands on the site.</summary>
public sealed record OutputLadder(RecordId PointId, LadderView Ladder);

/// <summary>One rung as designed; not mine when another sequence or a schedule claims it.</summary>
public sealed record DesignRung(int Priority, string Label, bool Mine, RecordId OwnerId);

/// <summary>A source as typed: a point's or schedule's name, or a constant such as 29 °C or on.</summary>
public sealed record SourceText(string Text);

/// <summary>What a typed source could mean, best first.</summary>
public sealed record SourceGuess(Source Source, string Name, string Path);

internal static class SequenceEndpoints
{
    private const int MostSpecification = 100_000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/sequences", (Workspace workspace, ILink site, ImageCache images) =>
        {
            Project project = workspace.Project;
            var there = site.AllInstalled().ToDictionary(i => i.Id);
            return project.All<Sequence>().OrderBy(s => s.Name, NaturalOrder.Names).Select(s =>
            {
                Installed? installed = s.ControllerId is { } host ? there.GetValueOrDefault(host) : null;
                SequenceState state = s.ControllerId is not { } id || project.Find(id) is null ? SequenceState.Homeless : installed is not { Runs: true } ? SequenceState.NotSent : images.Changes(id, installed, site) > 0 ? SequenceState.Ahead : SequenceState.Runs;
                return new SequenceLine(s.Id, s.Name, project.PathOf(s.Id), project.Find(s.EquipmentId)?.Name ?? "", project.Find(s.ControllerId ?? default)?.Name, s.Blocks.Count, s.Commands.Count,
                    [.. s.Commands.Select(c => project.Find<Point>(c.PointId)).OfType<Point>().Select(p => new OutputName(p.Id, $"{project.Find(p.OwnerId)?.Name} · {p.Name}")).OrderBy(o => o.Name, NaturalOrder.Names).Take(10)],
                    s.Clauses.Count, s.Clauses.Count(c => c.IsMetIn(s)), s.ScanSeconds, state, workspace.Findings.On(s.Id).Count);
            }).ToList();
        }).For(Role.Viewer);
        api.MapGet("/sequences/{id}", Results<Ok<SequenceView>, ProblemHttpResult> (string id, Workspace workspace, SequenceFacts facts) =>
            RecordId.IsValid(id) && workspace.Project.Find<Sequence>(new RecordId(id)) is { } sequence ? TypedResults.Ok(View(workspace, facts, sequence)) : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapGet("/sequences/{id}/modes/{block}", Results<Ok<ModesNow>, ProblemHttpResult> (string id, string block, Workspace workspace, ILink site) =>
            RecordId.IsValid(id) && workspace.Project.Find<Sequence>(new RecordId(id)) is { } sequence ? TypedResults.Ok(new ModesNow(sequence.ControllerId is { } host ? site.Modes(host, sequence.Id, block) : null)) : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapPost("/sequences/{id}/sources", Results<Ok<List<SourceGuess>>, ProblemHttpResult> (string id, SourceText request, Workspace workspace) =>
            RecordId.IsValid(id) && workspace.Project.Find<Sequence>(new RecordId(id)) is { } sequence ? TypedResults.Ok(Guess(workspace, sequence, request.Text.Trim())) : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapPost("/clauses/split", Results<Ok<List<string>>, ProblemHttpResult> (SourceText request) =>
            request.Text.Length > MostSpecification ? Problems.Refused($"A text has at most {MostSpecification} characters; this one has {request.Text.Length}. Paste it in parts.") : TypedResults.Ok(Clause.Split(request.Text).ToList())).For(Role.Engineer);
        api.MapGet("/sequences/{id}/ladders", Results<Ok<List<OutputLadder>>, ProblemHttpResult> (string id, Workspace workspace, ILink site) =>
            RecordId.IsValid(id) && workspace.Project.Find<Sequence>(new RecordId(id)) is { } sequence ? TypedResults.Ok(sequence.Commands.Select(c => (c.PointId, Ladder: site.Ladder(c.PointId))).Where(l => l.Ladder is not null).Select(l => new OutputLadder(l.PointId, l.Ladder!)).ToList()) : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapGet("/ladders/{pointId}", Results<Ok<LadderView>, ProblemHttpResult> (string pointId, ILink site) =>
            RecordId.IsValid(pointId) && site.Ladder(new RecordId(pointId)) is { } ladder ? TypedResults.Ok(ladder) : Problems.Refused("This output is not installed on the site, so nobody claims it yet.")).For(Role.Viewer);
    }

    private static SequenceView View(Workspace workspace, SequenceFacts facts, Sequence sequence)
    {
        Project project = workspace.Project;
        Typing typing = facts.TypingOf(sequence.Id) ?? Typing.Of(sequence, project);
        var reads = new List<SourceName>();
        foreach (Source source in sequence.Sources().Select(s => s.Source).Distinct())
        {
            if (source is PointSource p && project.Find<Point>(p.PointId) is { } point) reads.Add(new SourceName($"p:{p.PointId}", point.Name, project.PathOf(point.Id), SourceOf(project, point.Id), $"p:{p.PointId}", p.PointId));
            else if (source is ScheduleSource s && project.Find<Schedule>(s.ScheduleId) is { } schedule) reads.Add(new SourceName(s.Ahead ? $"s:{s.ScheduleId}/ahead" : $"s:{s.ScheduleId}", s.Ahead ? $"Until {schedule.Name} changes" : schedule.Name, project.PathOf(schedule.Id), "schedule", s.Ahead ? $"s:{s.ScheduleId}/ahead" : $"s:{s.ScheduleId}", s.ScheduleId));
        }
        var ladders = sequence.Commands.Where(c => project.Find(c.PointId) is not null).Select(c =>
        {
            Point point = project.Find<Point>(c.PointId)!;
            var rungs = facts.ClaimsOn(point.Id).Select(r => new DesignRung(r.Priority, r.Label, r.OwnerId == sequence.Id, r.OwnerId)).ToList();
            return new LadderDesign(point.Id, point.Name, project.PathOf(point.Id), rungs, point.Fallback is { } f ? ValueText.Of(f, point.Kind, point.Unit, point.StateTexts) : "none", SourceOf(project, point.Id), Sequence.FreePriority(rungs.Select(r => r.Priority)));
        }).ToList();
        return new SequenceView(sequence, project.FindEntry(sequence.Id)!.Revision, project.PathOf(sequence.Id), project.Find(sequence.EquipmentId)?.Name ?? "", project.Find(sequence.ControllerId ?? default)?.Name,
            reads, [.. typing.Outputs.Select(o => new PinType(o.Key.Block, o.Key.Pin, o.Value.Binary ? "on/off" : o.Value.Unit?.Symbol ?? "number"))],
            [.. typing.Conversions.Select(c => (Key: PlainBlocks.Designed(sequence, c.Key.Block, c.Key.Pin), c.Value)).Select(c => new LineConversion(c.Key.Block, c.Key.Pin, $"{c.Value.From} → {c.Value.To}", c.Value.Factor, c.Value.Offset, c.Value.To))],
            [.. sequence.Blocks.SelectMany(b => BlockType.Of(b).UnitsOfSettings().Select(n => new SettingUnit(b.Id, n.Setting, typing.UnitOf(b, n.Setting)?.Symbol ?? "")))], [.. typing.TextOffers.Select(o => new TextOffer(o.Block, o.Text, o.Offers))], ladders, [.. workspace.Findings.On(sequence.Id).Select(f => ProjectEndpoints.View(project, f))],
            [.. sequence.Blocks.Where(b => BlockType.Of(b.Kind).HasInside).Select(b => new BlockShape(b.Id, BlockType.Of(b)))]);
    }

    private static string? SourceOf(Project project, RecordId pointId) =>
        project.BindingOf(pointId) is { } binding ? $"{project.Find(binding.HostId)?.Name} {binding.Where}" : null;

    /// <summary>A constant if it reads as one; else points and schedules by words, those of the sequence's own place first.</summary>
    /// <summary>What is offered before anything is typed: the blocks put in last, the points of the equipment and of its room, the schedules of its places.</summary>
    private static List<SourceGuess> Near(Project project, Sequence sequence)
    {
        const int most = 12;
        var guesses = new List<SourceGuess>();
        foreach (ProjectRecord owner in project.Lineage(sequence.Id).Where(r => r is Equipment or Core.Places.Place { Kind: Core.Places.PlaceKind.Room }))
            guesses.AddRange(project.Referrers<Point>(owner.Id).Where(p => p.OwnerId == owner.Id).OrderBy(p => p.Name, NaturalOrder.Names).Take(most).Select(p => new SourceGuess(new PointSource(p.Id), p.Name, project.PathOf(p.Id))));
        guesses.AddRange(sequence.Blocks.TakeLast(most).SelectMany(b => BlockType.Of(b).Outputs.Select(o => new SourceGuess(new BlockSource(b.Id, o.Name), b.Says(o.Name), "block of this sequence"))));
        guesses.AddRange(project.Lineage(sequence.Id).OfType<Core.Places.Place>().SelectMany(p => project.Referrers<Schedule>(p.Id).Where(s => s.PlaceId == p.Id).Take(most)).Select(s => new SourceGuess(new ScheduleSource(s.Id), s.Name, project.PathOf(s.Id))));
        return guesses;
    }

    private static List<SourceGuess> Guess(Workspace workspace, Sequence sequence, string text)
    {
        if (text.Length == 0) return Near(workspace.Project, sequence);
        var guesses = new List<SourceGuess>();
        if (ConstantText.Read(text) is { } constant) guesses.Add(new SourceGuess(constant, ConstantText.Say(constant), "constant"));
        Project project = workspace.Project;
        // Each output of a block has a name: that of the block, and which it is where there are several.
        string[] words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        guesses.AddRange(sequence.Blocks.SelectMany(b => BlockType.Of(b).Outputs.Select(o => (Block: b, Pin: o.Name, Name: b.Says(o.Name))))
            .Where(b => words.Length > 0 && words.All(w => b.Name.Contains(w, StringComparison.OrdinalIgnoreCase))).Take(8)
            .Select(b => new SourceGuess(new BlockSource(b.Block.Id, b.Pin), b.Name, "block of this sequence")));
        RecordId? room = project.Lineage(sequence.Id).OfType<Core.Places.Place>().FirstOrDefault()?.Id;
        var hits = workspace.Finder.Find(project, text, 60).Select(h => project.Find(h.Id)).Where(r => r is Point or Schedule)
            .OrderByDescending(r => project.Lineage(r!.Id).Any(l => l.Id == room)).Take(12);
        foreach (ProjectRecord? hit in hits)
        {
            guesses.Add(new SourceGuess(hit is Point ? new PointSource(hit.Id) : new ScheduleSource(hit!.Id), hit.Name, project.PathOf(hit.Id)));
            if (hit is Schedule) guesses.Add(new SourceGuess(new ScheduleSource(hit.Id, Ahead: true), $"Until {hit.Name} changes", $"seconds; {project.PathOf(hit.Id)}"));
        }
        return guesses;
    }
}
