using System.Globalization;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Templates;

/// <summary>What to place where: how many in each place, named how, with which values; values of single rows by their number from 0; references outward led to one record for all, or each to its namesake nearest the place.</summary>
public sealed record PlacingRequest(
    IReadOnlyList<RecordId> Places, int Each, string NamePattern,
    IReadOnlyDictionary<string, string>? Values = null,
    IReadOnlyDictionary<int, IReadOnlyDictionary<string, string>>? RowValues = null,
    IReadOnlyDictionary<RecordId, RecordId>? Externals = null,
    IReadOnlyList<RecordId>? Namesakes = null);

/// <summary>One placement to come, with every record it will be: its sort and name.</summary>
public sealed record PlacingRow(RecordId PlaceId, string Path, string Name, IReadOnlyDictionary<string, string> Values, IReadOnlyList<string> Records);

/// <summary>Everything a placing would make, or why it cannot.</summary>
public sealed record PlacingPlan(IReadOnlyList<PlacingRow> Rows, IReadOnlyList<ProjectRecord> Records, IReadOnlyList<string> Refusals);

/// <summary>One field in which a placement and its template differ.</summary>
public sealed record PlacementDifference(RecordId RecordId, string Noun, string Name, string Field, string Words, string? Here, string? Template, bool IsLocal);

/// <summary>Places templates, compares placements with them, and brings placements up to newer revisions.</summary>
public static class Placing
{
    private const int MostPlacements = 20_000;

    /// <summary>The tokens a name pattern may hold.</summary>
    public static IReadOnlyList<string> Tokens { get; } = ["{building}", "{floor}", "{room}", "{short}", "{kind}", "{name}", "{n}", "{nn}", "{nnn}", "{k}"];

    /// <summary>Works out a placing. Names count on over all places ({n}, with width by repeating) or within one ({k}). <paramref name="progress"/> is told how many are done, and may throw to stop.</summary>
    public static PlacingPlan Plan(Project project, Template template, PlacingRequest request, Action<int>? progress = null)
    {
        var refusals = new List<string>();
        if (request.Places.Count == 0) refusals.Add("Choose at least one place.");
        if (request.Each is < 1 or > 100) refusals.Add("Place 1 to 100 in each place.");
        if (request.Places.Count * (long)request.Each > MostPlacements) refusals.Add($"That is {request.Places.Count * (long)request.Each:N0} placements; at most {MostPlacements:N0} are made at once.");
        if (string.IsNullOrWhiteSpace(request.NamePattern)) refusals.Add("Give a name, such as {room} fan-coil {n}.");
        if (refusals.Count > 0) return new PlacingPlan([], [], refusals);
        var rows = new List<PlacingRow>();
        var records = new List<ProjectRecord>();
        int count = 0;
        var free = new FreeNumbers(project);
        var texts = new NameTexts(NamingConvention.Of(project)?.Abbreviations ?? new Dictionary<string, string>());
        foreach (RecordId placeId in request.Places)
        {
            if (project.Find<Place>(placeId) is not { } place)
            {
                refusals.Add("One of the places is no longer in the project.");
                continue;
            }
            var externals = new Dictionary<RecordId, RecordId>(request.Externals ?? new Dictionary<RecordId, RecordId>());
            foreach (TemplateExternal external in template.Externals.Where(e => request.Namesakes?.Contains(e.Id) == true))
            {
                var (to, why) = PlacingWords.Namesake(project, place, external);
                if (to is { } nearest) externals[external.Id] = nearest;
                else refusals.Add(why);
            }
            for (int k = 1; k <= request.Each; k++)
            {
                if (count % 50 == 0) progress?.Invoke(count);
                var values = new Dictionary<string, string>(template.Values(request.Values));
                if (request.RowValues?.GetValueOrDefault(count) is { } own)
                {
                    foreach (var (name, value) in own) values[name] = value;
                }
                string called = Name(project, place, template, texts, request.NamePattern, ++count, k);
                string? wrong = template.Parameters.Select(p => p.Refuse(values[p.Name])).FirstOrDefault(r => r is not null);
                if (wrong is not null) refusals.Add($"{called} in {project.PathOf(place.Id)} › {place.Name}: {wrong}");
                else
                {
                    List<ProjectRecord> made = [.. template.Instantiate(RecordId.New("eq"), called, place.Id, values, externals.Count > 0 ? externals : null).Select(r => free.Give(r))];
                    records.AddRange(made);
                    rows.Add(new PlacingRow(place.Id, $"{project.PathOf(place.Id)} › {place.Name}", called, values, [.. made.Select(r => $"{r.Noun} {r.Name}")]));
                }
            }
        }
        if (refusals.Count == 0)
        {
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([.. records.Select(r => Edit.Of(r))], "placing", 0, "Placing"));
            refusals.AddRange(outcome.Refusals.Select(r => r.Sentence).Distinct().Take(50));
        }
        return new PlacingPlan(rows, records, refusals);
    }

    /// <summary>A name by its pattern; tokens mean what they mean in the naming convention, {name} the template's name.</summary>
    public static string Name(Project project, Place place, Template template, NameTexts texts, string pattern, int n, int k)
    {
        Place? At(PlaceKind kind) => project.Lineage(place.Id).OfType<Place>().FirstOrDefault(p => p.Kind == kind);
        string Short(Place? of) => of is null ? "" : of.ShortName ?? texts.Shorten(of.Name);
        string kind = template.Records.OfType<Equipment>().FirstOrDefault()?.Kind ?? "";
        return pattern
            .Replace("{building}", Short(At(PlaceKind.Building)), StringComparison.Ordinal)
            .Replace("{floor}", Short(At(PlaceKind.Floor)), StringComparison.Ordinal)
            .Replace("{kind}", texts.Shorten(kind), StringComparison.Ordinal)
            .Replace("{name}", template.Name.Split(',')[0], StringComparison.Ordinal)
            .Replace("{room}", place.Name, StringComparison.Ordinal)
            .Replace("{short}", Short(place), StringComparison.Ordinal)
            .Replace("{nnn}", n.ToString("000", CultureInfo.InvariantCulture), StringComparison.Ordinal)
            .Replace("{nn}", n.ToString("00", CultureInfo.InvariantCulture), StringComparison.Ordinal)
            .Replace("{n}", n.ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal)
            .Replace("{k}", k.ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal).Trim();
    }

    /// <summary>
    /// Where a placement differs from a revision of its template, field by field. A difference is local when the placement
    /// was changed since it was made from <paramref name="placedFrom"/>; the others come from the newer revision.
    /// </summary>
    public static IReadOnlyList<PlacementDifference> Compare(Project project, Equipment equipment, Template placedFrom, Template template)
    {
        var differences = new List<PlacementDifference>();
        var was = Expected(equipment, placedFrom).ToDictionary(r => r.Id);
        var wanted = Expected(equipment, template).ToDictionary(r => r.Id);
        foreach (RecordId id in was.Keys.Union(wanted.Keys))
        {
            ProjectRecord? here = project.Find(id), old = was.GetValueOrDefault(id), next = wanted.GetValueOrDefault(id);
            if (here is null && next is null) continue;
            if (here is null || next is null)
            {
                ProjectRecord there = (here ?? next)!;
                differences.Add(new PlacementDifference(id, there.Noun, there.Name, "", "the whole record", here is null ? null : "here", next is null ? null : "in the template", here is null ? old is not null : next is null && old is null));
                continue;
            }
            var local = old is null ? [] : Differences.Fields(old, here, project.Find).Select(f => f.Field).ToHashSet();
            foreach (FieldDifference field in Differences.Fields(here, next, project.Find).Where(f => f.Field is not ("placed" or "placeId" or "partOf" or "controllerId")))
            {
                if (id == equipment.Id && field.Field == "name") continue;
                differences.Add(new PlacementDifference(id, here.Noun, here.Name, field.Field, field.Words, field.Before, field.After, local.Contains(field.Field)));
            }
        }
        return differences;
    }

    /// <summary>
    /// The edits that bring a placement to a revision. Local changes are kept but for those given up, each named as
    /// record id, a slash and the field (empty for a whole record).
    /// </summary>
    public static IReadOnlyList<Edit> Update(Project project, Equipment equipment, Template placedFrom, Template template, IReadOnlySet<string> givenUp)
    {
        var edits = new List<Edit>();
        var wanted = Expected(equipment, template).ToDictionary(r => r.Id);
        var take = Compare(project, equipment, placedFrom, template).Where(d => !d.IsLocal || givenUp.Contains($"{d.RecordId}/{d.Field}")).ToLookup(d => d.RecordId);
        foreach (var fields in take)
        {
            ProjectRecord? here = project.Find(fields.Key), next = wanted.GetValueOrDefault(fields.Key);
            if (here is null && next is not null) edits.Add(Edit.Of(next, 0));
            else if (next is null) edits.AddRange(Removal.Of(project, [fields.Key]).Edits);
            else edits.Add(Edit.Of(Merge(here!, next, fields.Select(f => f.Field).ToHashSet()), project.FindEntry(here!.Id)!.Revision));
        }
        var placed = new Placement(template.Id, template.Name, template.Revision, template.Values(equipment.Placed?.Values), equipment.Placed?.Externals);
        int at = edits.FindIndex(e => e.Put?.Id == equipment.Id);
        if (at >= 0) edits[at] = edits[at] with { Put = (Equipment)edits[at].Put! with { Placed = placed } };
        else edits.Add(Edit.Of(equipment with { Placed = placed }, project.FindEntry(equipment.Id)!.Revision));
        return edits;
    }

    private static IReadOnlyList<ProjectRecord> Expected(Equipment equipment, Template template) =>
        template.Instantiate(equipment.Id, equipment.Name, equipment.PlaceId, equipment.Placed?.Values ?? new Dictionary<string, string>(), equipment.Placed?.Externals);

    private static ProjectRecord Merge(ProjectRecord here, ProjectRecord next, HashSet<string> fields)
    {
        var merged = (System.Text.Json.Nodes.JsonObject)System.Text.Json.JsonSerializer.SerializeToNode(here, RecordJson.Options)!;
        var wanted = (System.Text.Json.Nodes.JsonObject)System.Text.Json.JsonSerializer.SerializeToNode(next, RecordJson.Options)!;
        foreach (string field in fields)
        {
            merged.Remove(field);
            if (wanted[field] is { } value) merged[field] = value.DeepClone();
        }
        return System.Text.Json.JsonSerializer.Deserialize<ProjectRecord>(merged, RecordJson.Options)!;
    }
}
