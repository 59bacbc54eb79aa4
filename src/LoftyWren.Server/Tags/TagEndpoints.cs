using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;
using LoftyWren.Formats.Haystack;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Tags;

/// <summary>One tag of a record as screens show it.</summary>
public sealed record TagView(string Name, string Value, TagOrigin Origin, string Why, RecordId? RuleId);

/// <summary>A record a filter found, or one that is a single term short.</summary>
public sealed record FilterHit(RecordId Id, string Noun, string Name, string Path, string? Short);

/// <summary>What a filter found: how many, the first of them, and near misses; or where it cannot be read.</summary>
public sealed record FilterAnswer(int Count, IReadOnlyList<FilterHit> Hits, int NearCount, IReadOnlyList<FilterHit> Near, int? ErrorAt, string? Error);

/// <summary>A tagging rule with how many records it holds for now, or why it cannot be read.</summary>
public sealed record RuleView(TaggingRule Rule, long Revision, int Records);

/// <summary>A tagged model against the project: what it adds, changes, finds the same and leaves out with why (the first 500 lines).</summary>
public sealed record ModelView(int Adds, int Changes, int Same, int LeftOut, IReadOnlyList<IntakeLine> Lines, IReadOnlyList<string> Refusals, bool Taken);

/// <summary>A condition to try.</summary>
public sealed record RuleTrial(string Condition);

/// <summary>What a condition holds for.</summary>
public sealed record RuleTrialAnswer(int Count, IReadOnlyList<FilterHit> Hits, int? ErrorAt, string? Error);

internal static class TagEndpoints
{
    private const int Shown = 200;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/tags/definitions", () => Model.Definitions).For(Role.Viewer);
        api.MapGet("/tags/of/{id}", Results<Ok<List<TagView>>, ProblemHttpResult> (string id, Workspace workspace) =>
            RecordId.IsValid(id) && workspace.Project.Find(new RecordId(id)) is TaggedRecord record
                ? TypedResults.Ok(workspace.Tags.Explain(workspace.Project, record).Select(t => new TagView(t.Name, t.Value.ToString(), t.Origin, t.Why, t.RuleId)).ToList())
                : Problems.Missing("record")).For(Role.Viewer);
        api.MapGet("/tags/filter", FilterAnswer (string? q, string? scope, Workspace workspace) =>
        {
            Filter filter;
            try
            {
                filter = Filter.Parse(q ?? "");
            }
            catch (SyntaxException e)
            {
                return new FilterAnswer(0, [], 0, [], e.At, e.Message);
            }
            Project project = workspace.Project;
            TagIndex tags = workspace.Tags;
            RecordId? below = RecordId.IsValid(scope) ? new RecordId(scope!) : null;
            List<(RecordId Id, string? Term)> hits = [], near = [];
            foreach (var (id, set) in tags.All)
            {
                bool found = filter.Matches(set, tags.Resolve);
                string? term = found ? null : filter.NearMiss(set, tags.Resolve);
                if ((!found && term is null) || (below is { } b && project.Lineage(id).All(l => l.Id != b))) continue;
                (found ? hits : near).Add((id, term));
            }
            // Which ones are shown, when there are too many, is always the same.
            IReadOnlyList<FilterHit> First(List<(RecordId Id, string? Term)> all) => Sorted([.. all.OrderBy(h => h.Id).Take(Shown).Select(h => Hit(project, h.Id, h.Term))]);
            return new FilterAnswer(hits.Count, First(hits), near.Count, First(near), null, null);
        }).For(Role.Viewer);
        api.MapGet("/tags/export", Results<FileContentHttpResult, ProblemHttpResult> (string? form, Workspace workspace) =>
        {
            var things = HaystackFormats.Of(workspace.Project, workspace.Tags);
            var brick = form == "brick" ? HaystackFormats.Brick(workspace.Project, workspace.Tags) : [];
            (string? text, string type, string name, Func<string, bool> comesBack) = form switch
            {
                "zinc" => (HaystackFormats.WriteZinc(things), "text/zinc", "model.zinc", t => HaystackFormats.Same(things, HaystackFormats.ReadZinc(t))),
                "trio" => (HaystackFormats.WriteTrio(things), "text/trio", "model.trio", t => HaystackFormats.Same(things, HaystackFormats.ReadTrio(t))),
                "json" => (HaystackFormats.WriteJson(things), "application/json", "model.json", t => HaystackFormats.Same(things, HaystackFormats.ReadJson(t))),
                "brick" => (HaystackFormats.WriteBrick(brick), "text/turtle", "model.ttl", t => HaystackFormats.ReadBrick(t).SequenceEqual(brick)),
                _ => ((string?)null, "", "", (Func<string, bool>)(_ => false)),
            };
            if (text is null) return Problems.Refused("The model leaves as zinc, trio, json or brick; choose one.");
            // What leaves has been read back and says the same; if it ever did not, it would stay here.
            if (!comesBack(text)) return Problems.Refused($"The model as {form} does not read back the same, so it was not given out. Tell whoever keeps this program.");
            return TypedResults.File(System.Text.Encoding.UTF8.GetBytes(text), $"{type}; charset=utf-8", name);
        }).For(Role.Viewer);
        api.MapPost("/tags/model", async Task<Results<Ok<ModelView>, ProblemHttpResult>> (bool? take, HttpContext http, Workspace workspace) =>
        {
            try
            {
                string text = System.Text.Encoding.UTF8.GetString(await Uploads.Read(http)).TrimStart('\uFEFF');
                IntakePlan plan = ModelIntake.Plan(workspace.Project, [.. HaystackFormats.Read(text).Select(t => t.Tags)]);
                if (take == true)
                {
                    if (plan.Refusals.Count > 0) return Problems.Refused(string.Join(" ", plan.Refusals.Take(3)));
                    if (plan.Edits.Count == 0) return Problems.Refused("There is nothing in this model that is not so already.");
                    ChangeOutcome outcome = workspace.Apply(plan.Edits, http.User.Identity!.Name!, $"Took a tagged model: {plan.Edits.Count} records", risky: true);
                    if (!outcome.Accepted) return Problems.Of(outcome);
                }
                int Count(string verdict) => plan.Lines.Count(l => l.Verdict == verdict);
                return TypedResults.Ok(new ModelView(Count("adds"), Count("changes"), Count("same"), Count("left out"), [.. plan.Lines.Where(l => l.Verdict != "same").OrderBy(l => l.Verdict == "left out" ? 0 : 1).Take(500)], plan.Refusals, take == true));
            }
            catch (SyntaxException e)
            {
                return Problems.Refused($"This file cannot be read at character {e.At + 1}: {e.Message}");
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapGet("/tags/rules", (Workspace workspace) =>
        {
            Project project = workspace.Project;
            var counts = TaggingRules.Of(project).Counts(project);
            return project.All<TaggingRule>().OrderBy(r => r.Order).ThenBy(r => r.Name, NaturalOrder.Names).Select(r => new RuleView(r, project.FindEntry(r.Id)!.Revision, counts[r.Id])).ToList();
        }).For(Role.Viewer);
        api.MapPost("/tags/rules/try", RuleTrialAnswer (RuleTrial trial, Workspace workspace) =>
        {
            try
            {
                RuleCondition.Parse(trial.Condition);
            }
            catch (SyntaxException e)
            {
                return new RuleTrialAnswer(0, [], e.At, e.Message);
            }
            var holding = Holding(workspace.Project, trial.Condition).ToList();
            return new RuleTrialAnswer(holding.Count, Sorted([.. holding.Take(Shown).Select(r => Hit(workspace.Project, r.Id, null))]), null, null);
        }).For(Role.Viewer);
        api.MapPost("/tags/rules/starter", (HttpContext http, Workspace workspace) => ProjectEndpoints.Answer(workspace.Apply(
            [.. Model.StarterRules.Where(r => workspace.Project.Find(r.Id) is null).Select(r => Edit.Of(r, 0))], http.User.Identity!.Name!, "Added the starter tagging rules"))).For(Role.Engineer);
    }

    private static FilterHit Hit(Project project, RecordId id, string? term) => new(id, project.Find(id)!.Noun, project.Find(id)!.Name, project.PathOf(id), term);

    private static IReadOnlyList<FilterHit> Sorted(List<FilterHit> hits) => [.. hits.OrderBy(h => h.Path, NaturalOrder.Names).ThenBy(h => h.Name, NaturalOrder.Names)];

    private static IEnumerable<TaggedRecord> Holding(Project project, string condition) => TaggingRules.Of(project).Holding(project, RuleCondition.Parse(condition));
}
