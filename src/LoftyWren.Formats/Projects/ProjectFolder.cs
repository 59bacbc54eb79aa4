using System.Text.Json;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Projects;

/// <summary>
/// A project kept as readable files in a folder: <c>templates/*.json</c>, each one template, and <c>project/*</c>, taken one
/// after another in the order of their names. A <c>.csv</c> is a list of places, equipment and points, read as any list is,
/// and may place equipment from the templates; a <c>.json</c> holds records that no list can say, as a project file does.
/// </summary>
public static class ProjectFolder
{
    /// <summary>The edits that make the project from nothing.</summary>
    /// <exception cref="FileRefusedException">A file does not hold what it should; the message names file, row and reason.</exception>
    public static IReadOnlyList<Edit> Read(string folder)
    {
        IReadOnlyList<Template> templates = Templates(folder);
        var edits = new List<Edit>();
        Project sofar = Project.Empty;
        foreach (string file in Directory.GetFiles(Path.Combine(folder, "project")).Order(StringComparer.Ordinal))
        {
            IReadOnlyList<Edit> step = Path.GetExtension(file) == ".csv" ? List(file, sofar, templates) : [.. Json<List<ProjectRecord>>(file).Select(r => Edit.Of(r))];
            ChangeOutcome outcome = Changes.Apply(sofar, new ChangeSet([.. step.Select(e => e with { From = sofar.FindEntry(e.Put!.Id)?.Revision ?? 0 })], "folder", 0));
            sofar = outcome.After ?? throw new FileRefusedException($"{file} does not stand: {string.Join(" ", outcome.Refusals.Take(3).Select(r => $"[{r.RecordId}] {r.Sentence}"))}");
            edits.AddRange(step.Select(e => Edit.Of(e.Put!)));
        }
        // A later list may have written a record of an earlier one again: the last word stands.
        return [.. edits.Select(e => e.Put!.Id).Distinct().Select(id => Edit.Of(sofar.Find(id)!))];
    }

    /// <summary>The templates of the folder; none when it keeps none.</summary>
    /// <exception cref="FileRefusedException">One of them cannot be placed; the message names its file and why.</exception>
    public static IReadOnlyList<Template> Templates(string folder)
    {
        string at = Path.Combine(folder, "templates");
        if (!Directory.Exists(at)) return [];
        var templates = new List<Template>();
        foreach (string file in Directory.GetFiles(at, "*.json").Order(StringComparer.Ordinal))
        {
            Template template = Json<Template>(file);
            if (template.Refuse() is { } refusal) throw new FileRefusedException($"{file}: {refusal}");
            templates.Add(template);
        }
        return templates;
    }

    private static IReadOnlyList<Edit> List(string file, Project sofar, IReadOnlyList<Template> templates)
    {
        Sheet sheet = SheetReader.Read(File.ReadAllBytes(file)).Sheets[0];
        ImportPlan plan = ListImport.Plan(sofar, sheet, ListMapping.Propose(sheet), (name, equipment, place, id, values) =>
            templates.FirstOrDefault(t => t.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) is { } template
                ? PlacingWords.Place(sofar, template, equipment, place, id, values)
                : ([], $"There is no template ‘{name}’ in this folder."));
        return plan.BadCells.Count > 0 ? throw new FileRefusedException($"{file}, row {plan.BadCells[0].Row}{plan.BadCells[0].Column}: {plan.BadCells[0].Sentence}") : plan.Edits;
    }

    private static T Json<T>(string file)
    {
        try
        {
            return JsonSerializer.Deserialize<T>(File.ReadAllText(file), RecordJson.Options)!;
        }
        catch (JsonException e)
        {
            throw new FileRefusedException($"{file}: {e.Message}", e);
        }
    }
}
