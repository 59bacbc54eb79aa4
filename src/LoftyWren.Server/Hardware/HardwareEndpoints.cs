using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;
using LoftyWren.Formats.Sheets;
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

/// <summary>A panel as its page draws it: the enclosure to scale, every terminal; of the points without a source the nearest, and whether there are more.</summary>
public sealed record Panel(Controller Controller, long Revision, string Path, HardwareModel Model, Enclosure Enclosure, IReadOnlyList<string> Troubles, IReadOnlyDictionary<RecordId, long> ModuleRevisions,
    IReadOnlyList<PanelTerminalView> Terminals, IReadOnlyList<PanelValue> Values, IReadOnlyList<UnplacedPoint> Unplaced, bool MoreUnplaced, int Spare);

/// <summary>A signal: what the trade calls it, which settings it asks for, and the classes that its sensors come in.</summary>
public sealed record SignalView(string Key, string Name, string RawUnit, bool AsksRange, bool AsksLead, bool AsksPerPulse, bool AsksRunTime, bool AsksLoad, bool AsksCurve, bool MayCurve, IReadOnlyList<string> Classes)
{
    /// <summary>A signal as the client shows it.</summary>
    public static SignalView Of(Signal s)
    {
        bool Asks(SignalAsks what) => (s.Asks & what) != 0;
        return new SignalView(s.Key, s.Name, s.RawUnit, Asks(SignalAsks.Range), Asks(SignalAsks.Lead), Asks(SignalAsks.PerPulse), Asks(SignalAsks.RunTime), Asks(SignalAsks.Load), Asks(SignalAsks.Curve), Asks(SignalAsks.MayCurve), [.. s.Tolerances.Select(t => t.Key)]);
    }
}

/// <summary>One terminal of a panel: which device it is on (none: the controller itself), what it can carry, its rating, and of what is on it how it is set.</summary>
public sealed record PanelTerminalView(string Terminal, RecordId? ModuleId, string Label, string Group, Direction Direction, IReadOnlyList<string> Signals, string? Rating, string Cable, Fitting? Fitting, long? Revision, Point? Point, string? Path, string? CorrectionUnit, bool AsksCorrection, bool AsksTurn);

/// <summary>A curve of the project's own, and how many terminals measure by it.</summary>
public sealed record CurveLine(SensorCurve Curve, int Uses);

/// <summary>A curve to make: its points as people write them, 5000 = 10; 2500 = 30.</summary>
public sealed record NewCurve(string Name, string Points);

/// <summary>A list that is made from panels.</summary>
public sealed record NamedList(string Key, string Title);

/// <summary>A list as a table.</summary>
public sealed record ListView(string Title, IReadOnlyList<string> Columns, IReadOnlyList<string[]> Rows);

/// <summary>A model to add beside a controller, on which rail and before which module; the first rail with room unless told.</summary>
public sealed record AddModule(string ModelId, int? Rail = null, RecordId? Before = null);

/// <summary>Where a module goes.</summary>
public sealed record MoveModule(int Rail, RecordId? Before = null);

/// <summary>What comes of another model in the place of a device.</summary>
public sealed record ExchangeView(int Stays, IReadOnlyList<ExchangeLine> Moves, string Sentence);

/// <summary>A point that comes to another terminal, or to none and why.</summary>
public sealed record ExchangeLine(string Name, string Path, string From, string? To, string? Why);

/// <summary>The device to exchange (none: the controller itself) and what comes in its place.</summary>
public sealed record ExchangeRequest(string ModelId, RecordId? ModuleId = null);

/// <summary>What a catalogue file holds: the models it brings, or what is wrong with it and in which line.</summary>
public sealed record CatalogueView(IReadOnlyList<string> Models, IReadOnlyList<FileError> Errors, bool IsTaken);

/// <summary>What a device at a point may be replaced by: the free terminals with their signals, and the points beside it that may go with it.</summary>
public sealed record ReplacementChoices(Point Point, string Path, Controller Controller, Fitting Fitting, IReadOnlyList<ReplacementTerminal> Terminals, IReadOnlyList<UnplacedPoint> Beside);

/// <summary>A terminal that is free for it, and which signals it can carry there.</summary>
public sealed record ReplacementTerminal(string Terminal, IReadOnlyList<string> Signals);

/// <summary>The point that stays, how what comes is wired, which points go, and what becomes of those that use them.</summary>
public sealed record ReplacementRequest(RecordId PointId, NewWiring Comes, IReadOnlyList<RecordId> Goes, IReadOnlyList<RemovalChoice> Choices);

/// <summary>What changes in the wiring, what goes and what becomes of its users; why it cannot be done, where it cannot.</summary>
public sealed record ReplacementPreview(IReadOnlyList<string> Wiring, RemovalPreview? Removal, string? Refused);

/// <summary>How points are to be fitted: whether modules may be added, whether the points of a piece of equipment stay together, how much of each sort stays spare, %.</summary>
public sealed record FitRequest(bool MayAdd = false, bool Together = false, int SparePercent = 0);

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

/// <summary>A proposal to fit all points that have no source, the nearest first; modules that it adds, what they cost and what is known of the best; of those left over the first 500.</summary>
public sealed record FitView(IReadOnlyList<AddedModule> Added, IReadOnlyList<FitLine> Fittings, IReadOnlyList<FitLeft> Left, string Sentence, string? Quality);

/// <summary>A module that would be added.</summary>
public sealed record AddedModule(string Name, string Model, int Rail, int Price);

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
        api.MapGet("/catalogue", (Workspace workspace) => Catalogue.Of(workspace.Project).ToList()).For(Role.Viewer);
        api.MapPost("/catalogue", async Task<Results<Ok<CatalogueView>, ProblemHttpResult>> (bool? take, HttpContext http, Workspace workspace) =>
        {
            try
            {
                ListReading<HardwareModel> read = CatalogueFile.Parse(System.Text.Encoding.UTF8.GetString(await Uploads.Read(http)).TrimStart('\uFEFF'));
                if (take == true)
                {
                    if (read.Errors.Count > 0) return Problems.Refused($"The file was not taken: {read.Errors[0]}");
                    Project project = workspace.Project;
                    var own = project.All<OwnModel>().ToDictionary(m => m.Model.Id);
                    Edit[] edits = [.. read.Items.Select(m => own.GetValueOrDefault(m.Id) is { } there ? Edit.Of(there with { Name = m.Name, Model = m }, project.FindEntry(there.Id)!.Revision) : Edit.Of(new OwnModel { Id = RecordId.New("model"), Name = m.Name, Model = m }, 0))];
                    if (edits.Length == 0) return Problems.Refused("The file has no model.");
                    ChangeOutcome outcome = workspace.Apply(edits, http.User.Identity!.Name!, $"Took {edits.Length} hardware models into the catalogue");
                    if (!outcome.Accepted) return Problems.Of(outcome);
                }
                return TypedResults.Ok(new CatalogueView([.. read.Items.Select(m => $"{m.Name} ({m.Id})")], read.Errors, take == true));
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapGet("/schemas/hardware.json", () => TypedResults.File(System.Text.Encoding.UTF8.GetBytes(CatalogueFile.Schema()), "application/schema+json", "hardware.json")).For(Role.Viewer);
        api.MapGet("/signals", () => Signal.All.Select(SignalView.Of).ToList()).For(Role.Viewer);
        api.MapGet("/curves", (Workspace workspace) => workspace.Project.All<SensorCurve>().OrderBy(c => c.Name, NaturalOrder.Names).Select(c => new CurveLine(c, workspace.Project.Referrers<Fitting>(c.Id).Count())).ToList()).For(Role.Viewer);
        api.MapPost("/curves", Results<Ok<ChangeAnswer>, ProblemHttpResult> (NewCurve request, HttpContext http, Workspace workspace) =>
            SensorCurve.Parse(request.Points, out string? wrong) is not { } points ? Problems.Refused(wrong!)
            : ProjectEndpoints.Answer(workspace.Apply([Edit.Of(new SensorCurve { Id = RecordId.New("curve"), Name = request.Name.Trim(), Points = points }, 0)], http.User.Identity!.Name!))).For(Role.Engineer);
        api.MapGet("/hardware-lists", () => HardwareList.All.Select(l => new NamedList(l.Key, l.Title)).ToList()).For(Role.Viewer);
        api.MapGet("/hardware-lists/{key}", Results<Ok<ListView>, FileContentHttpResult, ProblemHttpResult> (string key, string? controller, string? form, Workspace workspace) =>
        {
            if (HardwareList.All.FirstOrDefault(l => l.Key == key) is not { } list) return Problems.Missing("list");
            Project project = workspace.Project;
            List<Controller> of = controller is null ? [.. project.All<Controller>()] : Find(workspace, controller) is { } one ? [one] : [];
            if (controller is not null && of.Count == 0) return Problems.Missing("controller");
            Core.PointLists.Sheet sheet = list.Of(project, of);
            string file = $"{list.Key}{(controller is null ? "" : $"-{of[0].Id}")}";
            return form switch
            {
                "xlsx" => TypedResults.File(SheetWriter.Xlsx(sheet), "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", $"{file}.xlsx"),
                "csv" => TypedResults.File(SheetWriter.Csv(sheet), "text/csv; charset=utf-8", $"{file}.csv"),
                _ => TypedResults.Ok(new ListView(list.Title, sheet.Rows[0], [.. sheet.Rows.Skip(1)])),
            };
        }).For(Role.Viewer);
        api.MapPost("/controllers/{id}/modules", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, AddModule request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            if (Catalogue.Find(project, request.ModelId) is not { } model) return Problems.Refused($"The catalogue has no model ‘{request.ModelId}’.");
            int address = IoModule.FreeAddress(project, controller.Id);
            if (address > IoModule.MostAddress) return Problems.Refused($"{controller.Name} has {IoModule.MostAddress} modules; no more can be addressed.");
            var module = new IoModule { Id = RecordId.New("mod"), Name = $"A{address}", ControllerId = controller.Id, ModelId = model.Id, Address = address };
            var moved = Enclosure.Moved(project, module, request.Rail ?? Enclosure.Of(project, controller).RailFor(model.WidthMillimetres), request.Before);
            return ProjectEndpoints.Answer(workspace.Apply([.. moved.Select(m => Edit.Of(m, project.FindEntry(m.Id)?.Revision ?? 0))], http.User.Identity!.Name!, $"Added {model.Name} to {controller.Name}"));
        }).For(Role.Engineer);
        api.MapPost("/modules/{id}/move", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, MoveModule request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id) || project.Find<IoModule>(new RecordId(id)) is not { } module) return Problems.Missing("module");
            if (project.Find<Controller>(module.ControllerId) is { } controller && (request.Rail < 1 || request.Rail > controller.Rails)) return Problems.Refused($"{controller.Name} has {controller.Rails} rails; there is no rail {request.Rail}. Give its enclosure more in its dossier.");
            var moved = Enclosure.Moved(project, module, request.Rail, request.Before);
            return moved.Count == 0 ? Problems.Refused($"‘{module.Name}’ stands there already.") : ProjectEndpoints.Answer(workspace.Apply([.. moved.Select(m => Edit.Of(m, project.FindEntry(m.Id)!.Revision))], http.User.Identity!.Name!, $"Moved module ‘{module.Name}’"));
        }).For(Role.Engineer);
        api.MapGet("/controllers/{id}/exchange", Results<Ok<ExchangeView>, ProblemHttpResult> (string id, string model, string? module, Workspace workspace) =>
        {
            if (Exchanged(workspace, id, model, module, out Controller controller, out HardwareModel other, out Exchange exchange) is { } problem) return problem;
            Project project = workspace.Project;
            int off = exchange.Moves.Count(m => m.To is null);
            return TypedResults.Ok(new ExchangeView(exchange.Stays, [.. exchange.Moves.Select(m => new ExchangeLine(project.Find(m.PointId)?.Name ?? "", project.PathOf(m.PointId), m.From, m.To, m.Why))],
                $"{exchange.Stays} points stay on their terminals{(exchange.Moves.Count > off ? $", {exchange.Moves.Count - off} move to other terminals of {other.Name} and must be rewired" : "")}{(off > 0 ? $", {off} find none and are taken off" : "")}."));
        }).For(Role.Engineer);
        api.MapPost("/controllers/{id}/exchange", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, ExchangeRequest request, HttpContext http, Workspace workspace) =>
            Exchanged(workspace, id, request.ModelId, request.ModuleId?.Value, out Controller controller, out HardwareModel other, out Exchange exchange) is { } problem ? problem
            : ProjectEndpoints.Answer(workspace.Apply(exchange.Edits, http.User.Identity!.Name!, $"Put {other.Name} in place of {(request.ModuleId is { } on ? $"module ‘{workspace.Project.Find(on)?.Name}’ of " : "")}{controller.Name}", risky: exchange.Moves.Any(m => m.To is null)))).For(Role.Engineer);
        api.MapGet("/controllers", (Workspace workspace, ILink site, ImageCache images) =>
        {
            Project project = workspace.Project;
            var there = site.AllInstalled().ToDictionary(i => i.Id);
            var troubles = site.Troubles();
            return project.All<Controller>().OrderBy(c => c.Name, NaturalOrder.Names).Select(c =>
            {
                var fittings = project.Referrers<Fitting>(c.Id).ToList();
                HardwareModel? model = Catalogue.Find(project, c.ModelId);
                Installed? installed = there.GetValueOrDefault(c.Id);
                return new ControllerLine(c, project.FindEntry(c.Id)!.Revision, project.PathOf(c.Id), model?.Name ?? c.ModelId, fittings.Count(f => f.Terminal != Fitting.MemoryTerminal), PanelTerminals.Of(project, c).Count(), fittings.Count(f => f.Terminal == Fitting.MemoryTerminal), installed is { Runs: true }, installed?.Version ?? 0, installed?.SentBy ?? "", installed?.SentAt ?? 0,
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
            if (PanelTerminals.Find(project, controller, terminal) is { } place && Fitting.Why(point, place.Group, terminal) is { } why) return Problems.Refused(why);
            if (Fit.Make(project, controller, point, terminal) is not { } fitting) return Problems.Refused($"{controller.Name} has no terminal ‘{terminal}’. It has {PanelTerminals.InWords(project, controller)} and value.");
            return ProjectEndpoints.Answer(workspace.Apply([Edit.Of(fitting, project.FindEntry(fitting.Id)?.Revision ?? 0)], http.User.Identity!.Name!));
        }).For(Role.Engineer);
        api.MapGet("/controllers/{id}/fit", Results<Ok<FitView>, ProblemHttpResult> (string id, bool? mayAdd, bool? together, int? spare, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            if (spare is < 0 or > 100) return Problems.Refused($"A spare of {spare} % is not between 0 and 100.");
            Project project = workspace.Project;
            FitProposal proposal = Propose(project, controller, new FitRequest(mayAdd == true, together == true, spare ?? 0));
            int all = proposal.Fittings.Count + proposal.Left.Count;
            string sentence = all == 0 ? "Every point has a source." : $"{proposal.Fittings.Count} of {all} points without a source fit onto {controller.Name}{(proposal.Added.Count == 0 ? "" : $" with {proposal.Added.Count} more module{(proposal.Added.Count == 1 ? "" : "s")} for {proposal.Price} EUR")}.";
            string? quality = all == 0 ? null : $"{(proposal.IsBest ? "Nothing better can be: more points find no terminal, and no cheaper modules do." : $"The best found in the effort allowed; less than {proposal.LeastPrice} EUR it cannot cost.")}{(proposal.SpareLacking == 0 ? "" : $" {proposal.SpareLacking} of the spare terminals that were asked for have no room.")}";
            return TypedResults.Ok(new FitView(
                [.. proposal.Added.Select(m => (Module: m, Model: Catalogue.Find(project, m.ModelId)!)).Select(m => new AddedModule(m.Module.Name, m.Model.Name, m.Module.Rail, m.Model.Price))],
                [.. proposal.Fittings.Select(f => new FitLine(f.PointId, project.Find(f.PointId)!.Name, project.PathOf(f.PointId), f.Terminal, f.Signal.Name))],
                [.. proposal.Left.Take(ShownFit).Select(l => new FitLeft(l.PointId, project.Find(l.PointId)!.Name, project.PathOf(l.PointId), l.Why))], sentence, quality));
        }).For(Role.Engineer);
        api.MapPost("/controllers/{id}/fit", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, FitRequest request, HttpContext http, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            if (request.SparePercent is < 0 or > 100) return Problems.Refused($"A spare of {request.SparePercent} % is not between 0 and 100.");
            FitProposal proposal = Propose(workspace.Project, controller, request);
            if (proposal.Fittings.Count == 0) return Problems.Refused(proposal.Left.Count > 0 ? proposal.Left[0].Why : "Every point has a source already.");
            return ProjectEndpoints.Answer(workspace.Apply([.. proposal.Added.Select(m => Edit.Of(m, 0)), .. proposal.Fittings.Select(f => Edit.Of(f, 0))], http.User.Identity!.Name!, $"Fitted {proposal.Fittings.Count} points onto {controller.Name}{(proposal.Added.Count == 0 ? "" : $" with {proposal.Added.Count} modules")}"));
        }).For(Role.Engineer);
    }

    /// <summary>A device in the place of another: what there is to choose, what would come of it, and doing it.</summary>
    public static void MapReplacement(RouteGroupBuilder api)
    {
        api.MapGet("/replacement/{point}", Results<Ok<ReplacementChoices>, ProblemHttpResult> (string point, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(point) || project.Find<Point>(new RecordId(point)) is not { } it) return Problems.Missing("point");
            if (project.BindingOf(it.Id) is not Fitting { IsInMemory: false } fitting || project.Find<Controller>(fitting.ControllerId) is not { } controller) return Problems.Refused($"‘{it.Name}’ is on no terminal, so no device hangs there to be replaced. Put it onto one first.");
            var taken = project.Referrers<Fitting>(controller.Id).Where(f => f.Id != fitting.Id).Select(f => f.Terminal).ToHashSet();
            var able = Fitting.SignalsFor(it);
            return TypedResults.Ok(new ReplacementChoices(it, project.PathOf(it.Id), controller, fitting,
                [.. PanelTerminals.Of(project, controller).Where(t => !taken.Contains(t.Terminal) && t.Group.Direction == Fitting.DirectionOf(it)).Select(t => new ReplacementTerminal(t.Terminal, [.. able.Where(t.Group.Signals.Contains).Select(s => s.Key)])).Where(t => t.Signals.Count > 0)],
                [.. DeviceReplacement.Beside(project, it).Select(p => new UnplacedPoint(p, project.Find(p.OwnerId)?.Name ?? "", project.BindingOf(p.Id)!.Where, Fitting.IsForMemory(p)))]));
        }).For(Role.Engineer);
        api.MapPost("/replacement", Results<Ok<ReplacementPreview>, ProblemHttpResult> (ReplacementRequest request, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (project.Find<Point>(request.PointId) is not { } point) return Problems.Missing("point");
            var (replacement, refused) = DeviceReplacement.Of(project, point, request.Comes, request.Goes, request.Choices);
            if (replacement is null) return Problems.Refused(refused!);
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(replacement.EditsIn(project), "", 0));
            return TypedResults.Ok(new ReplacementPreview([.. Differences.Fields(replacement.Before, replacement.After, project.Find).Select(f => $"{f.Words}: {f.Before ?? "none"} → {f.After ?? "none"}")],
                replacement.Removal.Gone.Count == 0 ? null : ProjectEndpoints.PreviewOf(project, replacement.Removal, new RemovalRequest(request.Goes, request.Choices)),
                refused ?? (outcome.Accepted ? null : string.Join(" ", outcome.Refusals.Take(3).Select(r => r.Sentence).Distinct()))));
        }).For(Role.Engineer);
        api.MapPost("/replacement/apply", Results<Ok<ChangeAnswer>, ProblemHttpResult> (ReplacementRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (project.Find<Point>(request.PointId) is not { } point) return Problems.Missing("point");
            var (replacement, refused) = DeviceReplacement.Of(project, point, request.Comes, request.Goes, request.Choices);
            if (replacement is null || refused is not null) return Problems.Refused(refused!);
            var edits = replacement.EditsIn(project);
            return edits.Count == 0 ? Problems.Refused("Nothing would change: the same wiring stays, and nothing goes.") : ProjectEndpoints.Answer(workspace.Apply(edits, http.User.Identity!.Name!, $"Replaced what ‘{point.Name}’ hangs on{(replacement.Removal.Gone.Count == 0 ? "" : $"; {replacement.Removal.Gone.Count} records go with it")}", risky: replacement.Removal.Gone.Count > 0));
        }).For(Role.Engineer);
    }

    /// <summary>What comes of another model in the place of a device, or what keeps it from being asked.</summary>
    private static ProblemHttpResult? Exchanged(Workspace workspace, string id, string modelId, string? moduleId, out Controller controller, out HardwareModel model, out Exchange exchange)
    {
        (controller, model, exchange) = (null!, null!, null!);
        Project project = workspace.Project;
        if (Find(workspace, id) is not { } found) return Problems.Missing("controller");
        IoModule? module = moduleId is null ? null : RecordId.IsValid(moduleId) ? project.Find<IoModule>(new RecordId(moduleId)) : null;
        if (moduleId is not null && module?.ControllerId != found.Id) return Problems.Missing("module");
        if (Catalogue.Find(project, modelId) is not { } other) return Problems.Refused($"The catalogue has no model ‘{modelId}’.");
        if (other.RunsPrograms != module is null) return Problems.Refused(module is null ? $"{other.Name} runs no programs, so it cannot stand for {found.Name}." : $"{other.Name} is a controller of its own, and no module.");
        (controller, model, exchange) = (found, other, Exchange.Of(project, found, module, other));
        return null;
    }

    private static Controller? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Controller>(new RecordId(id)) : null;

    /// <summary>Points of the controller's own building that have no source: those of its own room first, then of its floor, then the rest. Walked only as far as it is asked.</summary>
    private static IEnumerable<Point> Unplaced(Project project, Controller controller)
    {
        IEnumerable<RecordId> outward = project.Lineage(controller.Id).OfType<Core.Places.Place>().Where(p => p.Kind != Core.Places.PlaceKind.Site).Select(p => p.Id);
        return outward.SelectMany(scope => Core.PointLists.RecordOrder.Points(project, scope)).DistinctBy(p => p.Id).Where(p => project.BindingOf(p.Id) is null);
    }

    private static FitProposal Propose(Project project, Controller controller, FitRequest request) =>
        Fit.Propose(project, controller, Unplaced(project, controller), new FitOptions(request.MayAdd, request.Together ? FitTogether.Equipment : FitTogether.Nothing, request.SparePercent));

    /// <summary>What a point is tied to, and what else there is near it.</summary>
    private static TieView TieOf(Project project, Point point)
    {
        string Say(Tied tied) => $"{(tied.Thing is { } thing ? project.Find(thing)?.Name : "Outdoors")} · {tied.Quantity}";
        RecordId? room = project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == PlaceKind.Room)?.Id;
        List<ProjectRecord?> near = [.. project.Find<Equipment>(point.OwnerId) is { } own ? [own] : Array.Empty<ProjectRecord>(), .. room is { } here ? project.Referrers<Equipment>(here).Where(e => e.Id != point.OwnerId).OrderBy(e => e.Name, NaturalOrder.Names).Prepend<ProjectRecord>(project.Find(here)!) : [], null];
        return new TieView(PlantTies.Of(project, point) is { } now ? Say(now) : null, PlantTies.Chosen(project, point.Id) is not null, PlantTies.Propose(project, point) is { } proposed ? Say(proposed) : null,
            [.. near.SelectMany(thing => PlantQuantities.Of(thing).Select(q => new Tied(thing?.Id, q.Key))).Select(t => new TieChoice(t.Thing, t.Quantity, Say(t)))]);
    }

    private static Panel PanelOf(Workspace workspace, Controller controller, string? words)
    {
        Project project = workspace.Project;
        string[] wanted = (words ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var unplaced = Unplaced(project, controller).Where(p => wanted.Length == 0 || ($"{p.Name} {project.PathOf(p.Id)}".ToLowerInvariant() is var text && wanted.All(w => text.Contains(w, StringComparison.Ordinal)))).Take(ShownUnplaced + 1).ToList();
        var fittings = project.Referrers<Fitting>(controller.Id).ToList();
        var byTerminal = fittings.Where(f => f.Terminal != Fitting.MemoryTerminal).ToDictionary(f => f.Terminal);
        var terminals = PanelTerminals.Of(project, controller).Select((t, turn) =>
        {
            Fitting? fitting = byTerminal.GetValueOrDefault(t.Terminal);
            Point? point = fitting is null ? null : project.Find<Point>(fitting.PointId);
            return new PanelTerminalView(t.Terminal, t.Module?.Id, $"{t.Group.Prefix}{t.Number}", t.Group.Name, t.Group.Direction, [.. t.Group.Signals.Select(s => s.Key)], RatingOf(t.Group, t.Number), HardwareList.CableOf(controller, fitting, turn + 1),
                fitting, fitting is null ? null : project.FindEntry(fitting.Id)!.Revision, point, point is null ? null : project.PathOf(point.Id), fitting is null ? null : Fitting.AsKind.Field("correction")!.UnitOn(project, fitting),
                point is { Kind: PointKind.Analog } && t.Group.Direction == Direction.In, point is { Kind: PointKind.Binary });
        }).ToList();
        Enclosure enclosure = Enclosure.Of(project, controller);
        return new Panel(controller, project.FindEntry(controller.Id)!.Revision, project.PathOf(controller.Id), Catalogue.Find(project, controller.ModelId)!, enclosure, [.. enclosure.Troubles(controller).Select(t => $"{t.What} {t.Why}")],
            project.Referrers<IoModule>(controller.Id).ToDictionary(m => m.Id, m => project.FindEntry(m.Id)!.Revision), terminals,
            [.. fittings.Where(f => f.Terminal == Fitting.MemoryTerminal).Select(f => new PanelValue(f, project.FindEntry(f.Id)!.Revision, project.Find<Point>(f.PointId)!, project.PathOf(f.PointId))).OrderBy(v => v.Point.Name, NaturalOrder.Names)],
            [.. unplaced.Take(ShownUnplaced).Select(p => new UnplacedPoint(p, project.Find(p.OwnerId)?.Name ?? "", project.PathOf(p.Id), Fitting.IsForMemory(p)))], unplaced.Count > ShownUnplaced, terminals.Count(t => t.Fitting is null));
    }

    /// <summary>What an output is rated for, in words.</summary>
    private static string? RatingOf(TerminalGroup group, int number) => group.MostAmps is { } amps
        ? FormattableString.Invariant($"{amps} A{(group.FeedOf > 1 && group.FeedAmps is { } feed ? $"; feed {group.FeedAt(number)} of {group.FeedOf} outputs carries {feed} A" : "")}")
        : group.MostMilliamps is { } milliamps ? FormattableString.Invariant($"{milliamps} mA") : null;
}
