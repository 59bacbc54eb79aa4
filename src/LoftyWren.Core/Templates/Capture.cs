using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Templates;

/// <summary>A number or a text of a template that may become a parameter: where it is, what it is, and what it says now.</summary>
public sealed record Variable(RecordId Record, string Path, string Words, ParameterKind Kind, string Value, string? Unit);

/// <summary>Takes a finished piece of the project as a template: equipment, a controller, a room or a floor, with all that belongs to it.</summary>
public static class Capture
{
    /// <summary>The template; references outward are listed as externals, and what could not come along is told in <paramref name="left"/>, and where the externals lead now in <paramref name="links"/>.</summary>
    public static Template Of(Project project, RecordId rootId, string id, string name, List<string> left, Dictionary<RecordId, RecordId>? links = null)
    {
        ProjectRecord root = project.Find(rootId) ?? throw new InvalidOperationException("This record is not in the project.");
        // What belongs to the root goes with it when it is removed; the same comes along here.
        Removal belongs = Removal.Of(project, [rootId]);
        var inside = belongs.Gone.ToDictionary(r => r.Id);
        var half = inside.Values.Where(r => r.References().Any(x => x.Owning && !inside.ContainsKey(x.To) && x.To != root.ParentId)).ToList();
        foreach (ProjectRecord record in half)
        {
            inside.Remove(record.Id);
            left.Add(record is PointBinding binding
                ? $"‘{project.Find(binding.PointId)?.Name}’ is on {project.Find(binding.HostId)?.Name} {binding.Where}, which is not part of it: its {record.Noun} is left open."
                : $"{record.Noun} ‘{record.Name}’ belongs to something that is not part of it, and stays behind.");
        }
        // What something inside was placed from, and with what, is its own past; the template is a beginning.
        List<ProjectRecord> records = [.. inside.Values.Where(r => r.Id != rootId).OrderBy(r => r.Id).Prepend(root).Select(r => r is Equipment equipment ? equipment with { Placed = null } : r)];
        root = records[0];
        var local = records.Select((r, i) => (r.Id, Local: i == 0 ? "t-root" : $"t-{RecordKinds.Of(r).Letter}{i}")).ToDictionary(x => x.Id, x => new RecordId(x.Local));
        if (root.ParentId is { } parent) local[parent] = Template.Parent;
        var externals = new List<TemplateExternal>();
        foreach (Reference reference in records.SelectMany(r => r.References()).Where(r => !local.ContainsKey(r.To)))
        {
            if (project.Find(reference.To) is not { } to) continue;
            RecordId external = local[to.Id] = new($"t-x{externals.Count + 1}");
            links?.Add(external, to.Id);
            externals.Add(new TemplateExternal(external, to.Noun, project.PathOf(to.Id) is { Length: > 0 } path ? $"{to.Name} ({path})" : to.Name));
        }
        return new Template { Id = id, Name = name, Records = [.. records.Select(r => Localised(r, root, local))], Externals = externals };
    }

    /// <summary>The numbers and the texts in a template that may become parameters, numbers first.</summary>
    public static IReadOnlyList<Variable> Variables(Template template)
    {
        var variables = new List<Variable>();
        foreach (ProjectRecord record in template.Records)
        {
            if (record != template.Records[0]) variables.Add(new Variable(record.Id, "name", $"{record.Noun} {record.Name} › name", ParameterKind.Text, record.Name, null));
            foreach (Field field in RecordKinds.Of(record).Fields.Where(f => f.Is(FieldUses.Spelled)))
            {
                if (field.Say(Project.Empty, record) is { Length: > 0 } text) variables.Add(new Variable(record.Id, field.Key, $"{record.Name} › {Differences.Words(record, field.Key)}", ParameterKind.Text, text, null));
            }
            if (RecordKinds.Of(record).HasVariables) Walk(record, JsonSerializer.SerializeToNode(record, RecordJson.Options)!, "", record.Name);
        }
        return [.. variables.OrderBy(v => v.Kind)];

        void Walk(ProjectRecord record, JsonNode node, string path, string words)
        {
            if (node is JsonObject o)
            {
                foreach (var (key, value) in o)
                {
                    if (value is not null && key is not ("tags" or "templateTags" or "outline" or "priority")) Walk(record, value, path.Length == 0 ? key : $"{path}.{key}", $"{words} › {(path.Length == 0 ? Differences.Words(record, key) : Differences.Words(key))}");
                }
            }
            else if (node is JsonArray a)
            {
                for (int i = 0; i < a.Count; i++)
                {
                    if (a[i] is { } item) Walk(record, item, string.Create(CultureInfo.InvariantCulture, $"{path}.{i}"), $"{words} {i + 1}");
                }
            }
            else if (node is JsonValue v && v.TryGetValue(out double number)) variables.Add(new Variable(record.Id, path, words, ParameterKind.Number, number.ToString(CultureInfo.InvariantCulture), RecordKinds.Of(record).Field(path)?.UnitOn(Project.Empty, record)));
        }
    }

    private static ProjectRecord Localised(ProjectRecord record, ProjectRecord root, IReadOnlyDictionary<RecordId, RecordId> local)
    {
        ProjectRecord own = record.Led(local);
        if (record != root && root.Name.Length > 2) own = own with { Name = own.Name.Replace(root.Name, "{name}", StringComparison.Ordinal) };
        return own;
    }
}
