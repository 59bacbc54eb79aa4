using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Hardware;

/// <summary>A controller in a list: how full it is, what runs there since when, how many records the design is ahead of it, how many of its terminals are in trouble, what the checks find.</summary>
public sealed record ControllerLine(Controller Controller, long Revision, string Path, string Model, int Used, int Terminals, int Values, bool Installed, int Version, string SentBy, long SentAt, int Ahead, int Troubles, int Findings);

/// <summary>A point that has no source yet, and whether it can only live in memory.</summary>
public sealed record UnplacedPoint(Point Point, string Owner, string Path, bool IsForMemory);

/// <summary>A panel as its page draws it; of the points without a source the nearest, and whether there are more.</summary>
public sealed record Panel(Controller Controller, long Revision, string Path, ControllerModel Model, IReadOnlyList<PanelTerminal> Terminals, IReadOnlyList<PanelValue> Values, IReadOnlyList<UnplacedPoint> Unplaced, bool MoreUnplaced, int Spare);

/// <summary>A signal that a terminal can carry, and what the trade calls it.</summary>
public sealed record SignalView(Signal Signal, string Name);

/// <summary>One terminal of a panel; of what is on it, which settings it asks for: what the ends of its signal stand for, a correction, being turned round.</summary>
public sealed record PanelTerminal(string Terminal, string Group, IReadOnlyList<SignalView> Signals, Direction Direction, Fitting? Fitting, long? Revision, Point? Point, string? Path, string? CorrectionUnit, bool AsksRange, bool AsksCorrection, bool AsksTurn);

/// <summary>What a point is tied to in the building (nothing: null), whether somebody chose it, what would be proposed, and what there is near it.</summary>
public sealed record TieView(string? Now, bool IsChosen, string? Proposed, IReadOnlyList<TieChoice> Choices);

/// <summary>A quantity that a point can be tied to: of a room, of a machine, or of the weather.</summary>
public sealed record TieChoice(RecordId? ThingId, string Quantity, string Text);

/// <summary>What to tie a point to; no quantity leaves it to the proposal.</summary>
public sealed record TieRequest(RecordId? ThingId, string? Quantity);

/// <summary>A point in the controller's memory.</summary>
public sealed record PanelValue(Fitting Fitting, long Revision, Point Point, string Path);

/// <summary>A point to put onto a terminal; the terminal <c>value</c> is the controller's memory.</summary>
public sealed record PlaceOnTerminal(RecordId PointId, string Terminal);

/// <summary>A proposal to fit all points that have no source, the nearest first; of those left over the first 500.</summary>
public sealed record FitView(IReadOnlyList<FitLine> Fittings, IReadOnlyList<FitLeft> Left, string Sentence);

/// <summary>One proposed fitting.</summary>
public sealed record FitLine(RecordId PointId, string Name, string Path, string Terminal, string Signal);

/// <summary>A point that found no terminal, and why.</summary>
public sealed record FitLeft(RecordId PointId, string Name, string Path, string Why);

internal static class HardwareEndpoints
{
    private const int ShownUnplaced = 300, ShownFit = 500;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/ties/{pointId}", Results<Ok<TieView>, ProblemHttpResult> (string pointId, Workspace workspace) =>
            RecordId.IsValid(pointId) && workspace.Project.Find<Point>(new RecordId(pointId)) is { } point ? TypedResults.Ok(TieOf(workspace.Project, point)) : Problems.Missing("point")).For(Role.Viewer);
        api.MapPost("/ties/{pointId}", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string pointId, TieRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(pointId) || project.Find<Point>(new RecordId(pointId)) is not { } point) return Problems.Missing("point");
            PlantTie? chosen = PlantTies.Chosen(project, point.Id);
            Edit edit;
            if (request.Quantity is { } quantity)
            {
                PlantTie tie = (chosen ?? new PlantTie { Id = RecordId.New("tie"), Name = point.Name, PointId = point.Id, Quantity = quantity }) with { ThingId = request.ThingId, Quantity = quantity };
                edit = Edit.Of(tie, chosen is null ? 0 : project.FindEntry(chosen.Id)!.Revision);
            }
            else if (chosen is not null) edit = Edit.Removing(chosen.Id, project.FindEntry(chosen.Id)!.Revision);
            else return Problems.Refused("Nobody has chosen what this point is tied to; it follows the proposal already.");
            return ProjectEndpoints.Answer(workspace.Apply([edit], http.User.Identity!.Name!, request.Quantity is null ? $"Left the tie of ‘{point.Name}’ to the proposal" : $"Tied ‘{point.Name}’ to {(request.ThingId is { } thing ? project.Find(thing)?.Name : "the weather")} · {request.Quantity}"));
        }).For(Role.Engineer);
        api.MapGet("/catalogue", () => ControllerModel.Catalogue).For(Role.Viewer);
        api.MapGet("/controllers", (Workspace workspace, ILink site, ImageCache images) =>
        {
            Project project = workspace.Project;
            var there = site.AllInstalled().ToDictionary(i => i.Id);
            var troubles = site.Troubles();
            return project.All<Controller>().OrderBy(c => c.Name, NaturalOrder.Names).Select(c =>
            {
                var fittings = project.Referrers<Fitting>(c.Id).ToList();
                ControllerModel? model = ControllerModel.Find(c.ModelId);
                Installed? installed = there.GetValueOrDefault(c.Id);
                return new ControllerLine(c, project.FindEntry(c.Id)!.Revision, project.PathOf(c.Id), model?.Name ?? c.ModelId, fittings.Count(f => f.Terminal != Fitting.MemoryTerminal), model?.Terminals().Count() ?? 0, fittings.Count(f => f.Terminal == Fitting.MemoryTerminal), installed is { Runs: true }, installed?.Version ?? 0, installed?.SentBy ?? "", installed?.SentAt ?? 0,
                    images.Changes(c.Id, installed, site), troubles.GetValueOrDefault(c.Id), workspace.Findings.On(c.Id).Count);
            }).ToList();
        }).For(Role.Viewer);
        api.MapGet("/controllers/{id}/panel", Results<Ok<Panel>, ProblemHttpResult> (string id, string? words, Workspace workspace) =>
            Find(workspace, id) is { } controller ? TypedResults.Ok(PanelOf(workspace, controller, words)) : Problems.Missing("controller")).For(Role.Viewer);
        api.MapGet("/controllers/{id}/terminals", Results<Ok<IReadOnlyList<TerminalReading>>, ProblemHttpResult> (string id, Workspace workspace, ILink site) =>
            Find(workspace, id) is { } controller ? TypedResults.Ok(site.Terminals(controller.Id)) : Problems.Missing("controller")).For(Role.Viewer);
        api.MapPost("/controllers/{id}/terminals", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, PlaceOnTerminal request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            if (project.Find<Point>(request.PointId) is not { } point) return Problems.Missing("point");
            string terminal = request.Terminal.Trim();
            TerminalGroup? group = ControllerModel.Find(controller.ModelId)!.GroupOf(terminal);
            if (group is not null && Fitting.Why(point, group, terminal) is { } why) return Problems.Refused(why);
            if (Fit.Make(project, controller, point, terminal) is not { } fitting) return Problems.Refused($"{controller.Name} has no terminal ‘{terminal}’. It has {string.Join(", ", ControllerModel.Find(controller.ModelId)!.Groups.Select(g => $"{g.Prefix}1–{g.Prefix}{g.Count}"))} and value.");
            return ProjectEndpoints.Answer(workspace.Apply([Edit.Of(fitting, project.FindEntry(fitting.Id)?.Revision ?? 0)], http.User.Identity!.Name!));
        }).For(Role.Engineer);
        api.MapGet("/controllers/{id}/fit", Results<Ok<FitView>, ProblemHttpResult> (string id, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            FitProposal proposal = Propose(workspace.Project, controller);
            string sentence = proposal.Fittings.Count == 0 && proposal.Left.Count == 0 ? "Every point has a source." : $"{proposal.Fittings.Count} of {proposal.Fittings.Count + proposal.Left.Count} points without a source fit onto {controller.Name}.";
            return TypedResults.Ok(new FitView(
                [.. proposal.Fittings.Select(f => new FitLine(f.PointId, workspace.Project.Find(f.PointId)!.Name, workspace.Project.PathOf(f.PointId), f.Terminal, SignalConversion.Name(f.Signal)))],
                [.. proposal.Left.Take(ShownFit).Select(l => new FitLeft(l.PointId, workspace.Project.Find(l.PointId)!.Name, workspace.Project.PathOf(l.PointId), l.Why))], sentence));
        }).For(Role.Engineer);
        api.MapPost("/controllers/{id}/fit", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            FitProposal proposal = Propose(workspace.Project, controller);
            if (proposal.Fittings.Count == 0) return Problems.Refused(proposal.Left.Count > 0 ? proposal.Left[0].Why : "Every point has a source already.");
            return ProjectEndpoints.Answer(workspace.Apply([.. proposal.Fittings.Select(f => Edit.Of(f, 0))], http.User.Identity!.Name!, $"Fitted {proposal.Fittings.Count} points onto {controller.Name}"));
        }).For(Role.Engineer);
    }

    private static Controller? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Controller>(new RecordId(id)) : null;

    /// <summary>Points of the controller's own building that have no source: those of its own room first, then of its floor, then the rest. Walked only as far as it is asked.</summary>
    private static IEnumerable<Point> Unplaced(Project project, Controller controller)
    {
        IEnumerable<RecordId> outward = project.Lineage(controller.Id).OfType<Core.Places.Place>().Where(p => p.Kind != Core.Places.PlaceKind.Site).Select(p => p.Id);
        return outward.SelectMany(scope => Core.PointLists.RecordOrder.Points(project, scope)).DistinctBy(p => p.Id).Where(p => project.BindingOf(p.Id) is null);
    }

    private static FitProposal Propose(Project project, Controller controller) => Fit.Propose(project, controller, Unplaced(project, controller));

    /// <summary>What a point is tied to, and what else there is near it.</summary>
    private static TieView TieOf(Project project, Point point)
    {
        string Say(Tied tied) => $"{(tied.Thing is { } thing ? project.Find(thing)?.Name : "Outdoors")} · {tied.Quantity}";
        RecordId? room = project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == PlaceKind.Room)?.Id;
        List<ProjectRecord?> near = [.. project.Find<Equipment>(point.OwnerId) is { } own ? [own] : Array.Empty<ProjectRecord>(), .. room is { } here ? project.Referrers<Equipment>(here).Where(e => e.Id != point.OwnerId).OrderBy(e => e.Name, NaturalOrder.Names).Prepend<ProjectRecord>(project.Find(here)!) : [], null];
        return new TieView(PlantTies.Of(project, point) is { } now ? Say(now) : null, PlantTies.Chosen(project, point.Id) is not null, PlantTies.Propose(project, point) is { } proposed ? Say(proposed) : null,
            [.. near.SelectMany(thing => PlantQuantities.Of(thing).Select(q => new Tied(thing?.Id, q))).Select(t => new TieChoice(t.Thing, t.Quantity, Say(t)))]);
    }

    private static Panel PanelOf(Workspace workspace, Controller controller, string? words)
    {
        Project project = workspace.Project;
        string[] wanted = (words ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var unplaced = Unplaced(project, controller).Where(p => wanted.Length == 0 || ($"{p.Name} {project.PathOf(p.Id)}".ToLowerInvariant() is var text && wanted.All(w => text.Contains(w, StringComparison.Ordinal)))).Take(ShownUnplaced + 1).ToList();
        ControllerModel model = ControllerModel.Find(controller.ModelId)!;
        var fittings = project.Referrers<Fitting>(controller.Id).ToList();
        var byTerminal = fittings.Where(f => f.Terminal != Fitting.MemoryTerminal).ToDictionary(f => f.Terminal);
        var terminals = model.Terminals().Select(t =>
        {
            Fitting? fitting = byTerminal.GetValueOrDefault(t.Terminal);
            Point? point = fitting is null ? null : project.Find<Point>(fitting.PointId);
            return new PanelTerminal(t.Terminal, t.Group.Name, [.. t.Group.Signals.Select(s => new SignalView(s, SignalConversion.Name(s)))], t.Group.Direction, fitting, fitting is null ? null : project.FindEntry(fitting.Id)!.Revision, point, point is null ? null : project.PathOf(point.Id), fitting is null ? null : Fitting.AsKind.Field("correction")!.UnitOn(project, fitting),
                fitting is not null && SignalConversion.HasRange(fitting.Signal), point is { Kind: PointKind.Analog } && t.Group.Direction == Direction.In, point is { Kind: PointKind.Binary });
        }).ToList();
        return new Panel(controller, project.FindEntry(controller.Id)!.Revision, project.PathOf(controller.Id), model, terminals,
            [.. fittings.Where(f => f.Terminal == Fitting.MemoryTerminal).Select(f => new PanelValue(f, project.FindEntry(f.Id)!.Revision, project.Find<Point>(f.PointId)!, project.PathOf(f.PointId))).OrderBy(v => v.Point.Name, NaturalOrder.Names)],
            [.. unplaced.Take(ShownUnplaced).Select(p => new UnplacedPoint(p, project.Find(p.OwnerId)?.Name ?? "", project.PathOf(p.Id), Fitting.IsForMemory(p)))], unplaced.Count > ShownUnplaced, terminals.Count(t => t.Fitting is null));
    }
}
