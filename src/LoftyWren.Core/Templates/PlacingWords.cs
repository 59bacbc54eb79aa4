using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Templates;

/// <summary>A placement said in words, as a row of a list says it: values of parameters, and where references lead that go out of the template.</summary>
public static class PlacingWords
{
    /// <summary>What stands for “the record of the same name where it is placed”.</summary>
    public const string Here = "here";

    /// <summary>
    /// The records of one placement. <paramref name="words"/> holds pairs with semicolons between them, such as
    /// <c>setpoint = 21; Opening hours = Opening hours; Room temperature = here</c>: parameters by name or label, references
    /// outward by name, led to a record by its name, its id, or <c>here</c>. What is not named keeps its default or stays open.
    /// </summary>
    public static (IReadOnlyList<ProjectRecord> Records, string? Refusal) Place(Project project, Template template, string name, Place place, RecordId? id = null, string? words = null)
    {
        if (template.Records[0] is not Equipment) return ([], $"‘{template.Name}’ is a template of a {template.Records[0].Noun}, not of equipment. Place it under Library.");
        var values = new Dictionary<string, string>();
        var externals = new Dictionary<RecordId, RecordId>();
        foreach (string pair in (words ?? "").Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            int at = pair.IndexOf('=', StringComparison.Ordinal);
            string key = at < 0 ? pair : pair[..at].Trim(), value = at < 0 ? "" : pair[(at + 1)..].Trim();
            if (key.Length == 0 || value.Length == 0) return ([], $"‘{pair}’ says nothing: write what, an equals sign and a value, such as setpoint = 21.");
            bool Is(string text) => text.Equals(key, StringComparison.OrdinalIgnoreCase);
            if (template.Parameters.FirstOrDefault(p => Is(p.Name) || Is(p.Label)) is { } parameter)
            {
                if (parameter.Refuse(value) is { } refusal) return ([], refusal);
                values[parameter.Name] = value;
            }
            else if (template.Externals.FirstOrDefault(e => Is(e.Name) || Is(e.Called())) is { } external)
            {
                var (to, why) = value.Equals(Here, StringComparison.OrdinalIgnoreCase) ? Namesake(project, place, external) : Named(project, external, value);
                if (to is null) return ([], why);
                externals[external.Id] = to.Value;
            }
            else return ([], $"‘{template.Name}’ has nothing called ‘{key}’. It has {string.Join(", ", template.Parameters.Select(p => p.Name).Concat(template.Externals.Select(e => e.Called())).DefaultIfEmpty("nothing that varies"))}.");
        }
        return (template.Instantiate(id ?? RecordId.New("eq"), name, place.Id, values, externals.Count > 0 ? externals : null), null);
    }

    /// <summary>
    /// The record of a reference's sort and name that is nearest to a place: in the place itself or its equipment, else in
    /// what the place is in. Two at the same distance are none: a sentence says so.
    /// </summary>
    public static (RecordId? To, string Why) Namesake(Project project, Place place, TemplateExternal external)
    {
        bool Fits(ProjectRecord record) => record.Noun == external.Noun && (record.Name.Equals(external.Called(), StringComparison.OrdinalIgnoreCase) || record.Name.Equals(external.Name, StringComparison.OrdinalIgnoreCase));
        foreach (Place at in project.Lineage(place.Id).OfType<Place>())
        {
            var inside = project.Referrers(at.Id).Where(r => r.ParentId == at.Id).ToList();
            var found = inside.Where(Fits).Concat(inside.OfType<Equipment>().SelectMany(e => project.Referrers(e.Id).Where(r => r.ParentId == e.Id && Fits(r)))).Take(2).ToList();
            if (found.Count == 1) return (found[0].Id, "");
            if (found.Count > 1) return (null, $"{place.Name} has several {external.Noun}s called ‘{external.Called()}’. Name the one by its id, or lead this reference elsewhere.");
        }
        return (null, $"{place.Name} has no {external.Noun} called ‘{external.Called()}’. Add one, lead this reference elsewhere, or leave it open.");
    }

    /// <summary>The record of the very sort, name and place that a reference led to when the template was taken; null where the project has none.</summary>
    public static ProjectRecord? Origin(Project project, TemplateExternal external) =>
        Names.NearestNamed.Named(project, external.Called()).FirstOrDefault(r => r.Noun == external.Noun && (external.Name == r.Name || external.Name == $"{r.Name} ({project.PathOf(r.Id)})"));

    private static (RecordId? To, string Why) Named(Project project, TemplateExternal external, string words)
    {
        if (RecordId.IsValid(words) && project.Find(new RecordId(words)) is { } byId) return byId.Noun == external.Noun ? (byId.Id, "") : (null, $"‘{words}’ is a {byId.Noun}, but ‘{external.Called()}’ is a {external.Noun}.");
        var found = project.Records.Where(r => r.Noun == external.Noun && r.Name.Equals(words, StringComparison.OrdinalIgnoreCase)).Take(2).ToList();
        return found.Count switch
        {
            1 => (found[0].Id, ""),
            0 => (null, $"There is no {external.Noun} called ‘{words}’ in the project."),
            _ => (null, $"There are several {external.Noun}s called ‘{words}’. Give the id of the one that is meant, or ‘{Here}’ for the nearest."),
        };
    }
}
