using System.Text.Json;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Projects;

/// <summary>
/// A project kept as readable files in a folder: <c>project/0-site.json</c> with the site, <c>lists/*.csv</c> with places,
/// equipment and points, read as any list is, and <c>project/*.json</c> with what no list can say, in the order of their names.
/// </summary>
public static class ProjectFolder
{
    /// <summary>The edits that make the project from nothing.</summary>
    /// <exception cref="FileRefusedException">A file does not hold what it should; the message names file, row and reason.</exception>
    public static IReadOnlyList<Edit> Read(string folder)
    {
        string[] files = [.. Directory.GetFiles(Path.Combine(folder, "project"), "*.json").Order(StringComparer.Ordinal)];
        var edits = new List<Edit>(Records(files[0]));
        foreach (string file in Directory.GetFiles(Path.Combine(folder, "lists"), "*.csv").Order(StringComparer.Ordinal))
        {
            Project sofar = Changes.Apply(Project.Empty, new ChangeSet(edits, "folder", 0)).After ?? throw new FileRefusedException($"What comes before {file} does not stand.");
            Sheet sheet = SheetReader.Read(File.ReadAllBytes(file)).Sheets[0];
            ImportPlan plan = ListImport.Plan(sofar, sheet, ListMapping.Propose(sheet));
            if (plan.BadCells.Count > 0) throw new FileRefusedException($"{file}, row {plan.BadCells[0].Row}{plan.BadCells[0].Column}: {plan.BadCells[0].Sentence}");
            edits.AddRange(plan.Edits.Select(e => Edit.Of(e.Put!)));
        }
        foreach (string file in files.Skip(1)) edits.AddRange(Records(file));
        return edits;
    }

    private static IEnumerable<Edit> Records(string file)
    {
        try
        {
            return JsonSerializer.Deserialize<List<ProjectRecord>>(File.ReadAllText(file), RecordJson.Options)!.Select(r => Edit.Of(r));
        }
        catch (JsonException e)
        {
            throw new FileRefusedException($"{file}: {e.Message}", e);
        }
    }
}
