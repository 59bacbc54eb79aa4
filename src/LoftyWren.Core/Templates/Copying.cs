using System.Globalization;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Templates;

/// <summary>Copies to come: their names, their records, and what becomes of terminals, addresses and links, in words.</summary>
public sealed record CopyPlan(IReadOnlyList<string> Names, IReadOnlyList<ProjectRecord> Records, IReadOnlyList<string> Notes, IReadOnlyList<string> Refusals);

/// <summary>Copies a room, a floor, a building or equipment with all that belongs to it, any number of times.</summary>
public static class Copying
{
    /// <summary>Works out copies beside the original, named by a pattern with <c>{name}</c> and <c>{n}</c>, <c>{nn}</c>, which counts from a number. <paramref name="progress"/> is told how many are done, and may throw to stop.</summary>
    public static CopyPlan Plan(Project project, RecordId rootId, int times, string pattern, int first = 2, Action<int>? progress = null)
    {
        if (project.Find(rootId) is not (Place or Equipment) || project.Find(rootId) is not { ParentId: { } parent } root) return new CopyPlan([], [], [], ["A room, a floor, a building or equipment can be copied; choose one."]);
        if (times is < 1 or > 500) return new CopyPlan([], [], [], ["Make 1 to 500 copies."]);
        if (!pattern.Contains("{n", StringComparison.Ordinal) && times > 1) return new CopyPlan([], [], [], ["Put {n} into the name, so that each copy has its own."]);
        var left = new List<string>();
        var links = new Dictionary<RecordId, RecordId>();
        Template template = Capture.Of(project, rootId, "copy", root.Name, left, links);
        List<string> notes = [.. left.Select(l => $"open: {l}")];
        foreach (TemplateExternal external in template.Externals)
        {
            // Reading the same sensor or schedule is meant; commanding the same output, or running on the same controller, would clash.
            bool commands = template.Records.SelectMany(r => r.References()).Any(r => r.Sort.Alone && r.To == external.Id);
            if (commands) links.Remove(external.Id);
            notes.Add(commands ? $"open: {external.Noun} {external.Name} serves the original; the copies have none yet" : $"kept: {external.Noun} {external.Name} serves the copies too");
        }
        var free = new FreeNumbers(project);
        var taken = new HashSet<string>();
        var names = new List<string>();
        var records = new List<ProjectRecord>();
        for (int i = 0; i < times; i++)
        {
            progress?.Invoke(i);
            int n = first + i;
            string name = pattern.Replace("{name}", root.Name, StringComparison.Ordinal).Replace("{nn}", n.ToString("00", CultureInfo.InvariantCulture), StringComparison.Ordinal).Replace("{n}", n.ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal).Trim();
            names.Add(name);
            foreach (ProjectRecord copy in template.Instantiate(RecordId.New("copy"), name, parent, new Dictionary<string, string>(), links))
            {
                ProjectRecord made = free.Give(copy switch
                {
                    Equipment e when e.Placed?.TemplateId == template.Id => e with { Placed = null },
                    Place { Kind: PlaceKind.Floor } f when root is Place { Kind: PlaceKind.Floor } && f.Name == name => f with { Order = f.Order + i + 1 },
                    _ => copy,
                });
                // A name that stands only once in the whole project cannot be that of the original too.
                if (NameKeys(made).Any(k => project.Holder(k) is not null || taken.Contains(k))) made = made with { Name = $"{made.Name}-{n}" };
                taken.UnionWith(NameKeys(made));
                RecordKind kind = RecordKinds.Of(made);
                if (kind.Numbers.Count > 0) notes.Add($"proposed: {made.Noun} {made.Name} with {string.Join(", ", kind.Numbers.Select(u => $"{Differences.Words(made, u.Field)} {u.Of(made)}"))}");
                records.Add(made);
            }
        }
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([.. records.Select(r => Edit.Of(r, 0))], "copying", 0, "Copying"));
        return new CopyPlan(names, records, notes, [.. outcome.Refusals.Select(r => r.Sentence).Distinct().Take(20)]);
    }

    private static IEnumerable<string> NameKeys(ProjectRecord record) => record.UniqueKeys().Where(k => k.Field == "name").Select(k => k.Key);
}
