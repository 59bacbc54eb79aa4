using LoftyWren.Core.Fields;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Search;
using LoftyWren.Core.Trends;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Records;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Projects;

/// <summary>A change set as a client asks for it.</summary>
public sealed record ChangeRequest(IReadOnlyList<Edit> Edits, string? Label = null);

/// <summary>A change set that was accepted.</summary>
public sealed record ChangeAnswer(long Revision, string Label, IReadOnlyList<RecordId> Ids);

/// <summary>What the author may undo and redo next, and where the project stands.</summary>
public sealed record ProjectState(string? Name, string? SiteName, RecordId? SiteId, string? TimeZone, long Revision, int Findings, string? Undo, string? Redo, int Records);

/// <summary>One line of the history.</summary>
public sealed record HistoryLine(long Revision, long At, string Author, string Label, JournalKind Kind);

/// <summary>One record as its dossier shows it.</summary>
public sealed record Dossier(ProjectRecord Record, long Revision, string Noun, string Path, IReadOnlyList<UsedBy> UsedBy, IReadOnlyList<FindingView> Findings, string? NetworkName, IReadOnlyList<FieldText> Fields, IReadOnlyList<RecordId> Trends);

/// <summary>A field of the form of one record, and what it says there.</summary>
public sealed record FieldText(FieldView Field, string Label, string Text);

/// <summary>One change set that touched a record, and what it changed there.</summary>
public sealed record PastLine(long Revision, long At, string Author, string Label, JournalKind Kind, IReadOnlyList<FieldDifference> Fields);

/// <summary>A record that uses another, and as what.</summary>
public sealed record UsedBy(RecordId Id, string Noun, string Name, string Path, string As);

/// <summary>All that depends on a record, nearest first, the first 200; directly or through others.</summary>
public sealed record UsesView(int Direct, int All, IReadOnlyList<DependentLine> Lines);

/// <summary>A record that depends on another: as what, and through which one, with its name where it is another.</summary>
public sealed record DependentLine(RecordId Id, string Noun, string Name, string Path, string As, string? Through, int Steps);

/// <summary>What a removal takes along and what it changes, before it is done; why the choices cannot be followed, where they cannot.</summary>
public sealed record RemovalPreview(string Sentence, IReadOnlyList<RemovalLine> Gone, IReadOnlyList<RemovalLine> Changed, string? Refused);

/// <summary>One record of a removal: for the sake of which one it goes or changes (none for one that was asked for itself), what may take that one's place there, and in words what changes in it.</summary>
public sealed record RemovalLine(RecordId Id, string Noun, string Name, string Path, RecordId? Gone, string? GoneName, string? As, string? Nouns, bool MayBeFixed, string? Unit, IReadOnlyList<string> Changes);

/// <summary>The records to remove, and what becomes of those that refer to them where that is not the usual.</summary>
public sealed record RemovalRequest(IReadOnlyList<RecordId> Ids, IReadOnlyList<RemovalChoice>? Choices = null);

/// <summary>A way to mend a finding, with what it would change in words.</summary>
public sealed record FixView(string Label, IReadOnlyList<string> Does);

/// <summary>A finding as screens show it: with the ways to mend it, the revision it has stood since, and who silenced it why.</summary>
public sealed record FindingView(string Key, string Code, Severity Severity, RecordId RecordId, string Noun, string Name, string Path, string What, string Why, IReadOnlyList<FixView> Fixes, long Since, string? Silenced, string? SilencedBy, RecordId? SilenceId, bool IsOfSite, string? SinceLabel = null);

/// <summary>A finding to silence, and why it may stand.</summary>
public sealed record SilenceRequest(string Key, RecordId RecordId, string Reason);

/// <summary>The key of a finding to mend, which of its ways (the first unless told otherwise), and what that way was called when it was chosen: when it is another by now, nothing is done.</summary>
public sealed record FixRequest(string Key, RecordId RecordId, int? Which = null, string? Label = null);

/// <summary>How many findings there are of each severity, how many match what is asked for, and the first 500 of those.</summary>
public sealed record FindingsView(int All, int High, int Medium, int Low, int Silenced, int Matching, IReadOnlyList<FindingView> Findings);

internal static class ProjectEndpoints
{
    private const int ShownFindings = 500;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/project", (HttpContext http, Workspace workspace, ProjectDirectory projects, SiteServer server) =>
        {
            var (undo, redo) = workspace.Next(http.User.Identity!.Name!);
            var site = workspace.Project.Site;
            return new ProjectState(projects.List.Find(projects.Of(http).Id)?.Name ?? site?.Name, site?.Name, site?.Id, site?.TimeZone, workspace.Project.Revision, workspace.Findings.Count + SiteFindings.Of(workspace.Project, server).Count(), undo, redo, workspace.Project.Count);
        }).For(Role.Viewer);
        api.MapGet("/first-steps", (Workspace workspace, ILink site) => FirstSteps.Of(workspace.Project, site.AllInstalled().Any(i => i.Runs))).For(Role.Viewer);
        api.MapPost("/changes", Results<Ok<ChangeAnswer>, ProblemHttpResult> (ChangeRequest request, HttpContext http, Workspace workspace) =>
            request.Label is { Length: > 200 } ? Problems.Refused("A label has at most 200 characters.") : Answer(workspace.Apply(request.Edits, http.User.Identity!.Name!, request.Label))).For(Role.Engineer);
        api.MapPost("/undo", (HttpContext http, Workspace workspace) => Answer(workspace.Undo(http.User.Identity!.Name!))).For(Role.Engineer);
        api.MapPost("/redo", (HttpContext http, Workspace workspace) => Answer(workspace.Redo(http.User.Identity!.Name!))).For(Role.Engineer);
        api.MapGet("/history", (long? below, Workspace workspace) =>
            workspace.Store.Page(below ?? long.MaxValue, 100).Select(e => new HistoryLine(e.Revision, e.AtMilliseconds, e.Author, e.Label, e.Kind)).ToList()).For(Role.Viewer);
        api.MapPost("/history/{revision:long}/undo", (long revision, HttpContext http, Workspace workspace) => Answer(workspace.UndoEntry(revision, http.User.Identity!.Name!))).For(Role.Engineer);
        api.MapGet("/records/{id}", Results<Ok<Dossier>, ProblemHttpResult> (string id, Workspace workspace, SiteServer server) =>
        {
            if (!RecordId.IsValid(id) || workspace.Project.FindEntry(new RecordId(id)) is not { } entry) return Problems.Missing("record");
            Project project = workspace.Project;
            var usedBy = project.Referrers(entry.Record.Id)
                .Select(r => new UsedBy(r.Id, r.Noun, CalledOf(project, r), project.PathOf(r.Id), string.Join(", ", r.References().Where(x => x.To == entry.Record.Id).Select(x => x.As).Distinct())))
                .OrderBy(u => u.Noun).ThenBy(u => u.Name, NaturalOrder.Names).Take(200).ToList();
            return TypedResults.Ok(new Dossier(entry.Record, entry.Revision, entry.Record.Noun, project.PathOf(entry.Record.Id), usedBy, [.. workspace.Findings.On(entry.Record.Id).Concat(SiteFindings.On(entry.Record.Id, server)).Select(f => View(project, f))],
                entry.Record is Point point ? workspace.Findings.Naming?.NetworkName(project, point) : null, FormOf(project, entry.Record),
                entry.Record is Place or Equipment ? [.. RecordOrder.Under(project, entry.Record.Id, TrendLog.AsKind).Take(6).Select(t => t.Id)] : []));
        }).For(Role.Viewer);
        api.MapGet("/records/{id}/past", Results<Ok<IReadOnlyList<PastLine>>, ProblemHttpResult> (string id, long? below, int? count, Workspace workspace) =>
        {
            if (!RecordId.IsValid(id)) return Problems.Missing("record");
            Project project = workspace.Project;
            return TypedResults.Ok<IReadOnlyList<PastLine>>([.. workspace.Store.PastOf(new RecordId(id), Math.Clamp(count ?? 20, 1, 200), below ?? long.MaxValue)
                .Select(e => new PastLine(e.Revision, e.AtMilliseconds, e.Author, e.Label, e.Kind, e.Changes[0] is { Before: { } was, After: { } now } ? Differences.Fields(was, now, project.Find) : []))]);
        }).For(Role.Viewer);
        api.MapGet("/records/{id}/uses", Results<Ok<UsesView>, ProblemHttpResult> (string id, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id) || project.Find(new RecordId(id)) is not { } record) return Problems.Missing("record");
            var all = Dependents.Of(project, record.Id);
            return TypedResults.Ok(new UsesView(all.Count(d => d.Steps == 1), all.Count, [.. all.Take(200).Select(d => new DependentLine(d.Record.Id, d.Record.Noun, CalledOf(project, d.Record), project.PathOf(d.Record.Id), d.As, d.Steps == 1 ? null : CalledOf(project, d.Through), d.Steps))]));
        }).For(Role.Viewer);
        api.MapPost("/removal", Results<Ok<RemovalPreview>, ProblemHttpResult> (RemovalRequest request, Workspace workspace) =>
        {
            Project project = workspace.Project;
            Removal removal = Removal.Of(project, request.Ids, request.Choices);
            if (removal.Gone.Count == 0) return Problems.Missing("record");
            return TypedResults.Ok(PreviewOf(project, removal, request));
        }).For(Role.Engineer);
        api.MapPost("/removal/apply", Results<Ok<ChangeAnswer>, ProblemHttpResult> (RemovalRequest request, HttpContext http, Workspace workspace) =>
            Removal.Refuse(workspace.Project, request.Choices ?? []) is { } refused ? Problems.Refused(refused) : Answer(workspace.Apply(Removal.Of(workspace.Project, request.Ids, request.Choices).Edits, http.User.Identity!.Name!))).For(Role.Engineer);
        api.MapGet("/find", List<Hit> (string? q, string? nouns, Workspace workspace) =>
            [.. workspace.Finder.Find(workspace.Project, (q ?? "")[..Math.Min(100, (q ?? "").Length)], nouns: nouns?.Split(','))]).For(Role.Viewer);
        api.MapGet("/findings", FindingsView (string? show, string? words, Workspace workspace, SiteServer server) =>
        {
            Project project = workspace.Project;
            var all = workspace.Findings.All.Concat(SiteFindings.Of(project, server)).ToList();
            var silenced = workspace.Findings.Silenced.ToList();
            string[] wanted = (words ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
            IEnumerable<Finding> shown = show == "silenced" ? silenced : Enum.TryParse(show, ignoreCase: true, out Severity severity) ? all.Where(f => f.Severity == severity) : all;
            if (wanted.Length > 0) shown = shown.Where(f => $"{f.What} {f.Why} {f.Code} {project.PathOf(f.RecordId)}".ToLowerInvariant() is var text && wanted.All(w => text.Contains(w, StringComparison.Ordinal)));
            var matching = shown.Select(f => (Finding: f, Path: project.PathOf(f.RecordId))).OrderByDescending(f => f.Finding.Severity).ThenBy(f => f.Path, NaturalOrder.Names).ThenBy(f => f.Finding.What, NaturalOrder.Names).ThenBy(f => f.Finding.Key, StringComparer.Ordinal).Select(f => f.Finding).ToList();
            var labels = new Dictionary<long, string?>();
            string? LabelOf(long revision) => labels.TryGetValue(revision, out string? label) ? label : labels[revision] = workspace.Store.LabelOf(revision);
            return new FindingsView(all.Count, all.Count(f => f.Severity == Severity.High), all.Count(f => f.Severity == Severity.Medium), all.Count(f => f.Severity == Severity.Low), silenced.Count, matching.Count,
                [.. matching.Take(ShownFindings).Select(f => View(project, f) with { SinceLabel = f.IsOfSite ? null : LabelOf(f.Since) })]);
        }).For(Role.Viewer);
        api.MapPost("/findings/silence", Results<Ok<ChangeAnswer>, ProblemHttpResult> (SilenceRequest request, HttpContext http, Workspace workspace) =>
        {
            Finding? finding = workspace.Findings.On(request.RecordId).FirstOrDefault(f => f.Key == request.Key);
            if (finding is null) return Problems.Refused("This finding is gone, or is silenced already.");
            var silence = new Silence { Id = RecordId.New("silence"), Name = finding.What[..Math.Min(80, finding.What.Length)], OnId = request.RecordId, FindingKey = request.Key, Reason = request.Reason.Trim(), Who = http.User.Identity!.Name! };
            return Answer(workspace.Apply([Edit.Of(silence, 0)], silence.Who, $"Silenced “{finding.What}”: {silence.Reason}"[..Math.Min(200, $"Silenced “{finding.What}”: {silence.Reason}".Length)]));
        }).For(Role.Engineer);
        api.MapPost("/findings/fix", Results<Ok<ChangeAnswer>, ProblemHttpResult> (FixRequest request, HttpContext http, Workspace workspace) =>
        {
            Finding? finding = workspace.Findings.Afresh(workspace.Project, request.RecordId, request.Key);
            if (finding?.Fixes.ElementAtOrDefault(request.Which ?? 0) is not { } fix) return Problems.Refused("This finding is gone, or has no mend at one click.");
            if (request.Label is { } seen && seen != fix.Label) return Problems.Refused($"The project has changed since you looked. The mend would now be: {fix.Label}. Look again and choose.");
            return Answer(workspace.Apply(fix.Edits, http.User.Identity!.Name!, fix.Label));
        }).For(Role.Engineer);
    }

    /// <summary>The form of a record: its fields that no page of its own edits. A link offers what stands beside it.</summary>
    private static IReadOnlyList<FieldText> FormOf(Project project, ProjectRecord record) =>
        [.. RecordKinds.Of(record).Offered(FieldUses.Form).Where(f => f.IsOf(record)).Select(f => new FieldText(FieldView.Of(f) with { Unit = f.UnitOn(project, record) }, f.LabelOn(record), f.Say(project, record)))];

    /// <summary>A removal in words, with what becomes of each record that uses what goes.</summary>
    internal static RemovalPreview PreviewOf(Project project, Removal removal, RemovalRequest request)
    {
        var gone = removal.Gone.Select(r => r.Id).ToHashSet();
        string sentence = removal.Gone.Count == 1 && removal.Changed.Count == 0
            ? $"Removes {removal.Gone[0].Noun} ‘{removal.Gone[0].Called(project.Find)}’. Nothing else depends on it."
            : $"Removes {removal.Gone.Count} record{(removal.Gone.Count == 1 ? "" : "s")}{(removal.Changed.Count == 0 ? "; nothing else depends on them" : $" and changes {removal.Changed.Count} that use them")}.";
        RemovalLine Line(ProjectRecord record, Reference? reference, IReadOnlyList<string> changes) => new(record.Id, record.Noun, CalledOf(project, record), project.PathOf(record.Id), reference?.To, reference is { } r ? project.Find(r.To)?.Called(project.Find) : null, reference?.As,
            reference is { } n ? string.Join(',', RecordKinds.All.Where(k => n.Sort.To.Any(t => t.IsAssignableFrom(k.Type))).SelectMany(k => k.Nouns).Select(w => w.Noun)) : null, reference is { Sort.IsValue: true }, reference is { } u && project.Find(u.To) is Point { Kind: PointKind.Analog } point ? point.Unit : null, changes);
        return new RemovalPreview(sentence,
            [.. removal.Gone.Select(r => Line(r, request.Ids.Contains(r.Id) ? null : r.References().Where(x => gone.Contains(x.To)).Select(x => (Reference?)x).FirstOrDefault(), []))],
            [.. removal.Changed.SelectMany(c => c.Lost.DistinctBy(l => l.To).Select((lost, i) => Line(c.Before, lost, i > 0 ? [] : [.. Differences.Fields(c.Before, c.After, project.Find).Select(f => $"{f.Words}: {f.Before ?? "none"} → {f.After ?? "none"}")])))],
            Removal.Refuse(project, request.Choices ?? []));
    }

    /// <summary>What to call a record in a list of uses.</summary>
    private static string CalledOf(Project project, ProjectRecord record) => record is PointBinding binding ? CalledAt(project, binding) : record.Called(project.Find);

    /// <summary>A binding by its terminal and whose point it carries: a panel has many of one name.</summary>
    private static string CalledAt(Project project, PointBinding binding) =>
        $"{binding.Where} · {(project.Find<Point>(binding.PointId) is { } point ? $"{project.Find(point.OwnerId)?.Name} · {point.Name}" : "a point")}";

    /// <summary>A finding with the name and place of its record.</summary>
    public static FindingView View(Project project, Finding finding)
    {
        ProjectRecord? record = project.Find(finding.RecordId);
        return new FindingView(finding.Key, finding.Code, finding.Severity, finding.RecordId, record?.Noun ?? "", record?.Name ?? "", project.PathOf(finding.RecordId), finding.What, finding.Why,
            [.. finding.Fixes.Select(fix => new FixView(fix.Label, [.. fix.Edits.Where(e => e.Put is not null).SelectMany(e => Differences.Fields(project.Find(e.Put!.Id), e.Put, project.Find).Select(f => $"{e.Put!.Name}, {f.Words}: {f.Before ?? "none"} → {f.After ?? "none"}"))]))],
            finding.Since, finding.Silence?.Reason, finding.Silence?.Who, finding.Silence?.Id, finding.IsOfSite);
    }

    /// <summary>The answer to a change set.</summary>
    public static Results<Ok<ChangeAnswer>, ProblemHttpResult> Answer(ChangeOutcome outcome) => outcome.Entry is { } entry
        ? TypedResults.Ok(new ChangeAnswer(entry.Revision, entry.Label, [.. entry.Changes.Select(c => c.Id).Take(1000)]))
        : Problems.Of(outcome);
}
