using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Names;

/// <summary>A name that departs, why, and the name it would have; null where none fits.</summary>
public sealed record DepartureView(RecordId Id, string Noun, string Path, string Name, string Why, string? Proposed);

/// <summary>A word that no list knows: how often it stands where, and what it may be meant to be.</summary>
public sealed record WordView(string Word, int Count, string? Suggestion, IReadOnlyList<string> Where);

/// <summary>The convention, the common one to begin with, and what departs from it (the first 500), network names that cannot stand, and words that no list knows.</summary>
public sealed record NamesView(NamingConvention Convention, NamingConvention Common, long Revision, IReadOnlyList<string> Kinds, IReadOnlyList<string> Tokens, int DepartureCount, IReadOnlyList<DepartureView> Departures, IReadOnlyList<FindingView> Network, IReadOnlyList<WordView> Words);

/// <summary>What a rule would come to: how many records it is for, how many depart, and some of them; network names show what they would be.</summary>
public sealed record RuleOutcome(string For, int Records, int Depart, IReadOnlyList<DepartureView> Some);

/// <summary>A convention tried on the project before it is kept: what each rule comes to, or why it cannot be.</summary>
public sealed record ConventionTrial(IReadOnlyList<RuleOutcome> Rules, IReadOnlyList<string> Refusals);

/// <summary>Names to mend: these records, or all that depart when none are given.</summary>
public sealed record NameFixRequest(IReadOnlyList<RecordId> Ids);

/// <summary>One text before and after.</summary>
public sealed record TextChange(RecordId Id, string Noun, string Path, string Before, string After);

/// <summary>A word to write otherwise everywhere.</summary>
public sealed record CorrectionRequest(string Word, string To);

/// <summary>Words to add to the project's own.</summary>
public sealed record OwnWordsRequest(IReadOnlyList<string> Words);

internal static class NameEndpoints
{
    private const int Shown = 500, Some = 4;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/names", NamesView (Workspace workspace) =>
        {
            Project project = workspace.Project;
            var all = workspace.Findings.All.Where(f => f.Code is "name" or "network-name" or "spelling").ToLookup(f => f.Code);
            NamingConvention convention = NamingConvention.Of(project) ?? NamingConvention.Empty;
            return new NamesView(convention, NamingConvention.Common, project.FindEntry(convention.Id)?.Revision ?? 0, NamingConvention.Kinds, NamePattern.Tokens, all["name"].Count(),
                [.. all["name"].Select(f => Departure(project, f)).OrderBy(d => d.Path, NaturalOrder.Names).ThenBy(d => d.Name, NaturalOrder.Names).Take(Shown)],
                [.. all["network-name"].Take(Shown).Select(f => ProjectEndpoints.View(project, f))], Words(project, all["spelling"]));
        }).For(Role.Viewer);
        api.MapPost("/names/try", ConventionTrial (NamingConvention convention, Workspace workspace) =>
        {
            Project project = workspace.Project;
            var refusals = convention.Check(project).Select(r => r.Sentence).ToList();
            return refusals.Count > 0 ? new ConventionTrial([], refusals) : new ConventionTrial(Try(project, convention), []);
        }).For(Role.Engineer);
        api.MapPost("/names/fix/preview", (NameFixRequest request, Workspace workspace) => Changes(workspace.Project, Fix(workspace, request))).For(Role.Engineer);
        api.MapPost("/names/fix", Results<Ok<ChangeAnswer>, ProblemHttpResult> (NameFixRequest request, HttpContext http, Workspace workspace) =>
        {
            var edits = Fix(workspace, request);
            return edits.Count == 0 ? Problems.Refused("None of these has a name it could be given: they follow the convention, or nothing fits.") : ProjectEndpoints.Answer(workspace.Apply(edits, Who(http), $"Renamed {edits.Count} by the naming convention", risky: true));
        }).For(Role.Engineer);
        api.MapPost("/names/words/preview", (CorrectionRequest request, Workspace workspace) => Changes(workspace.Project, Corrections(workspace, request))).For(Role.Engineer);
        api.MapPost("/names/words/correct", Results<Ok<ChangeAnswer>, ProblemHttpResult> (CorrectionRequest request, HttpContext http, Workspace workspace) =>
        {
            if (string.IsNullOrWhiteSpace(request.To) || request.To.Length > 40) return Problems.Refused("Write what the word should be, in up to 40 letters.");
            var edits = Corrections(workspace, request);
            return edits.Count == 0 ? Problems.Refused($"‘{request.Word}’ stands nowhere any more.") : ProjectEndpoints.Answer(workspace.Apply(edits, Who(http), $"Wrote ‘{request.To}’ for ‘{request.Word}’ in {edits.Count}"));
        }).For(Role.Engineer);
        api.MapPost("/names/words/own", Results<Ok<ChangeAnswer>, ProblemHttpResult> (OwnWordsRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            NamingConvention convention = NamingConvention.Of(project) ?? NamingConvention.Empty;
            var fresh = request.Words.Select(w => w.Trim().ToLowerInvariant()).Where(w => w.Length is >= 3 and <= 40).Distinct().Except(convention.Words).ToList();
            return fresh.Count == 0 ? Problems.Refused("These words are known already.") : ProjectEndpoints.Answer(workspace.Apply([Edit.Of(convention with { Words = [.. convention.Words, .. fresh] }, project.FindEntry(convention.Id)?.Revision ?? 0)], Who(http), $"Added to the project's words: {string.Join(", ", fresh.Take(5))}{(fresh.Count > 5 ? " …" : "")}"));
        }).For(Role.Engineer);
    }

    private static string Who(HttpContext http) => http.User.Identity!.Name!;

    private static DepartureView Departure(Project project, Finding finding)
    {
        ProjectRecord record = project.Find(finding.RecordId)!;
        string why = finding.What[(finding.What.IndexOf($"‘{record.Name}’", StringComparison.Ordinal) + record.Name.Length + 3)..].TrimEnd('.');
        return new DepartureView(record.Id, record.Noun, project.PathOf(record.Id), record.Name, why, finding.Fixes.Select(f => f.Edits[0].Put!.Name).FirstOrDefault());
    }

    private static IReadOnlyList<WordView> Words(Project project, IEnumerable<Finding> findings) =>
    [
        .. findings.GroupBy(f => f.Key[(f.Key.LastIndexOf('|') + 1)..])
            .Select(g => new WordView(g.Key, g.Count(), Suggestion(g.First()), [.. g.Take(Some).Select(f => $"{project.PathOf(f.RecordId)} › {project.Find(f.RecordId)?.Name}")]))
            .OrderByDescending(w => w.Count).ThenBy(w => w.Word, StringComparer.Ordinal).Take(Shown),
    ];

    private static string? Suggestion(Finding finding) => finding.Fixes.Count < 2 ? null : finding.Fixes[0].Label["Write ‘".Length..^1];

    private static IReadOnlyList<RuleOutcome> Try(Project project, NamingConvention convention)
    {
        var naming = Naming.Of(convention);
        var names = NameIndex.Full(project, naming);
        var outcomes = convention.Rules.ToDictionary(r => r.For, _ => (Records: 0, Depart: 0, Some: new List<DepartureView>()));
        foreach (ProjectRecord record in project.Records.OrderBy(r => r.Id))
        {
            if (outcomes.TryGetValue(record.Noun, out var of))
            {
                Departure? departure = naming.Check(project, record, names);
                if (departure is not null && of.Some.Count < Some) of.Some.Add(new DepartureView(record.Id, record.Noun, project.PathOf(record.Id), record.Name, departure.Why, departure.Proposed));
                outcomes[record.Noun] = (of.Records + 1, of.Depart + (departure is null ? 0 : 1), of.Some);
            }
            if (record is Point point && outcomes.TryGetValue(NamingConvention.Network, out var network))
            {
                string? wrong = naming.CheckNetwork(project, point, names);
                if (network.Some.Count < Some) network.Some.Add(new DepartureView(point.Id, point.Noun, project.PathOf(point.Id), point.Name, wrong ?? "", naming.NetworkName(project, point)));
                outcomes[NamingConvention.Network] = (network.Records + 1, network.Depart + (wrong is null ? 0 : 1), network.Some);
            }
        }
        return [.. outcomes.Select(o => new RuleOutcome(o.Key, o.Value.Records, o.Value.Depart, o.Value.Some))];
    }

    private static IReadOnlyList<Edit> Fix(Workspace workspace, NameFixRequest request) =>
        Naming.Fix(workspace.Project, request.Ids.Count > 0 ? request.Ids : workspace.Findings.All.Where(f => f.Code == "name").Select(f => f.RecordId));

    private static IReadOnlyList<Edit> Corrections(Workspace workspace, CorrectionRequest request)
    {
        if (string.IsNullOrWhiteSpace(request.To)) return [];
        Project project = workspace.Project;
        string end = $"|{request.Word.ToLowerInvariant()}";
        return [.. workspace.Findings.All.Where(f => f.Code == "spelling" && f.Key.EndsWith(end, StringComparison.Ordinal)).Select(f => f.RecordId).Distinct()
            .Select(id => Edit.Of(Spelling.Correct(project.Find(id)!, request.Word, request.To.Trim()), project.FindEntry(id)!.Revision))];
    }

    private static List<TextChange> Changes(Project project, IReadOnlyList<Edit> edits) =>
    [
        .. edits.Take(2000).SelectMany(e => Spelling.Texts(project.Find(e.Put!.Id)!).Zip(Spelling.Texts(e.Put!))
            .Where(t => t.First.Text != t.Second.Text)
            .Select(t => new TextChange(e.Put!.Id, e.Put.Noun, project.PathOf(e.Put.Id), t.First.Text, t.Second.Text))),
    ];
}
