using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Templates;

/// <summary>What a parameter of a template is.</summary>
public enum ParameterKind
{
    /// <summary>A number with a unit and limits.</summary>
    Number,
    /// <summary>A text.</summary>
    Text,
    /// <summary>One of several texts.</summary>
    Choice,
}

/// <summary>Something that varies from one placement to the next.</summary>
public sealed record TemplateParameter(string Name, string Label, ParameterKind Kind, string Default, string? Unit = null, double? Low = null, double? High = null, IReadOnlyList<string>? Choices = null)
{
    /// <summary>Why a value cannot be, or null when it can.</summary>
    public string? Refuse(string value)
    {
        switch (Kind)
        {
            case ParameterKind.Number when !double.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out double number) || !double.IsFinite(number):
                return $"‘{value}’ is no number for ‘{Label}’. Write digits, such as {Default}.";
            case ParameterKind.Number when double.Parse(value, CultureInfo.InvariantCulture) is var n && (n < Low || n > High):
                return $"{value} {Unit} is out of range for ‘{Label}’: {Low?.ToString(CultureInfo.InvariantCulture) ?? "−∞"} to {High?.ToString(CultureInfo.InvariantCulture) ?? "∞"} {Unit}.";
            case ParameterKind.Choice when Choices?.Contains(value) != true:
                return $"‘{value}’ is no choice for ‘{Label}’. Choose one of: {string.Join(", ", Choices ?? [])}.";
            case ParameterKind.Text when value.Length > 200:
                return $"The text for ‘{Label}’ is longer than 200 characters.";
            default:
                return null;
        }
    }
}

/// <summary>Where a parameter's value goes: a record of the template and the path of a field in its JSON, as <c>fallback</c> or <c>blocks.0.numbers.gain</c>.</summary>
public sealed record TemplateBinding(RecordId Record, string Path, string Parameter);

/// <summary>A reference that leads out of the template: to be led to a record of the project when it is placed, or left open.</summary>
public sealed record TemplateExternal(RecordId Id, string Noun, string Name)
{
    /// <summary>What the record is called, without where it was.</summary>
    public string Called() => Name.EndsWith(')') && Name.LastIndexOf(" (", StringComparison.Ordinal) is > 0 and var at ? Name[..at] : Name;
}

/// <summary>
/// A reusable piece of engineering: its records with ids of their own (<c>t-…</c>), the root first, and what varies. Names
/// may hold <c>{name}</c>, which becomes the name of the placed root.
/// </summary>
public sealed record Template
{
    private const int MostRecords = 5000;

    /// <summary>The id that stands for whatever the root is put into.</summary>
    public static RecordId Parent { get; } = new("t-parent");

    /// <summary>Its identity, the same in every revision.</summary>
    public required string Id { get; init; }

    /// <summary>Its name, unique in its library.</summary>
    public required string Name { get; init; }

    /// <summary>The folder in its library; parts with a slash between them.</summary>
    public string Folder { get; init; } = "";

    /// <summary>Who wrote this revision.</summary>
    public string Author { get; init; } = "";

    /// <summary>What changed in it, or what it is for.</summary>
    public string Comment { get; init; } = "";

    /// <summary>Counts up from 1.</summary>
    public int Revision { get; init; } = 1;

    /// <summary>What varies.</summary>
    public IReadOnlyList<TemplateParameter> Parameters { get; init; } = [];

    /// <summary>The records, the root first.</summary>
    public required IReadOnlyList<ProjectRecord> Records { get; init; }

    /// <summary>Where parameters go.</summary>
    public IReadOnlyList<TemplateBinding> Bindings { get; init; } = [];

    /// <summary>References that lead out.</summary>
    public IReadOnlyList<TemplateExternal> Externals { get; init; } = [];

    /// <summary>The kind of place it is put into: equipment goes into rooms, a place into places of the kind above it.</summary>
    public PlaceKind Into() => Records[0] is Place { Kind: > PlaceKind.Site } place ? place.Kind - 1 : PlaceKind.Room;

    /// <summary>The pattern that its placements are proposed to be named by: that of the convention, where it is of equipment and can be filled in; else its own name as far as the comma, where that is short.</summary>
    public string NamedBy(NamingConvention? convention)
    {
        if (Records[0] is Equipment && convention?.Rules.FirstOrDefault(r => r.For == "equipment" && !r.Pattern.Contains("{equipment}", StringComparison.Ordinal)) is { } rule) return rule.Pattern;
        string name = Name.Split(',')[0];
        return name.Length < 24 ? name : "Equipment";
    }

    /// <summary>Why this template cannot be placed at all, or null when it can: whoever saves one or takes one in asks first.</summary>
    public string? Refuse()
    {
        if (!RecordId.IsValid(Id) || string.IsNullOrWhiteSpace(Name) || Name.Length > 80) return "A template needs an id, and a name of at most 80 characters.";
        if (Records.Count is 0 or > MostRecords) return $"The template ‘{Name}’ has {Records.Count} records; it needs 1 to {MostRecords}.";
        if (Records.Any(r => r.Id.Value is not { Length: > 2 and < 40 } id || !id.StartsWith("t-", StringComparison.Ordinal)) || Records.DistinctBy(r => r.Id).Count() != Records.Count)
            return $"The records of ‘{Name}’ need ids of their own that begin with t-, each once.";
        if (Folder.Length > 200 || Author.Length > 80 || Comment.Length > 1000) return $"The folder of ‘{Name}’ has at most 200 characters, its author 80, and its comment 1000.";
        if (Parameters.Count > 200 || Bindings.Count > 5000 || Externals.Count > 500) return $"‘{Name}’ has more than 200 parameters, 5000 bindings or 500 references that lead out.";
        if (Parameters.Any(p => p.Name.Length > 60 || p.Label.Length > 200 || p.Default.Length > 200 || p.Choices?.Count > 200)) return $"A parameter of ‘{Name}’ has a name over 60, a label or default over 200 characters, or over 200 choices.";
        if (Parameters.DistinctBy(p => p.Name).Count() != Parameters.Count) return $"Two parameters of ‘{Name}’ have the same name.";
        foreach (TemplateParameter parameter in Parameters)
        {
            if (parameter.Refuse(parameter.Default) is { } sentence) return $"The default of a parameter of ‘{Name}’ does not fit: {sentence}";
        }
        foreach (TemplateBinding binding in Bindings)
        {
            if (Parameters.All(p => p.Name != binding.Parameter) || Records.All(r => r.Id != binding.Record)) return $"‘{Name}’ binds {binding.Path} to a parameter or a record that it does not have.";
        }
        try
        {
            Instantiate(new RecordId("trial"), "Trial", new RecordId("trial-place"), new Dictionary<string, string>());
            return null;
        }
        catch (Exception e) when (e is JsonException or FormatException or ArgumentException or InvalidOperationException or NotSupportedException)
        {
            return $"‘{Name}’ has a value that no record can take: {e.Message}";
        }
    }

    /// <summary>The parameters' defaults, overlaid with given values.</summary>
    public IReadOnlyDictionary<string, string> Values(IReadOnlyDictionary<string, string>? given)
    {
        var values = Parameters.ToDictionary(p => p.Name, p => p.Default);
        foreach (var (name, value) in given ?? new Dictionary<string, string>())
        {
            // A value that its parameter does not take (written by hand into a file, or before the parameter changed) counts as the default.
            if (Parameters.FirstOrDefault(p => p.Name == name) is { } parameter && parameter.Refuse(value) is null) values[name] = value;
        }
        return values;
    }

    /// <summary>
    /// The records of one placement. The root takes the id, name and parent given; every other id follows from the root's,
    /// so that the same placement always makes the same records.
    /// </summary>
    /// <param name="externals">Where references that lead out go; those not named are left open.</param>
    public IReadOnlyList<ProjectRecord> Instantiate(RecordId rootId, string rootName, RecordId parentId, IReadOnlyDictionary<string, string> given, IReadOnlyDictionary<RecordId, RecordId>? externals = null)
    {
        IReadOnlyDictionary<string, string> values = Values(given);
        var ids = new Dictionary<RecordId, RecordId> { [Parent] = parentId, [Records[0].Id] = rootId };
        foreach (ProjectRecord record in Records.Skip(1)) ids[record.Id] = PlacedId(rootId, record.Id);
        foreach (TemplateExternal external in Externals)
        {
            if (externals is not null && externals.TryGetValue(external.Id, out RecordId to)) ids[external.Id] = to;
        }
        var bindings = Bindings.ToLookup(b => b.Record);
        var result = new List<ProjectRecord>(Records.Count);
        foreach (ProjectRecord record in Records)
        {
            // What is led nowhere is left open: a reference outward that nobody resolved, or one into the project it was once taken from.
            var open = record.References().Select(r => r.To).Where(to => !ids.ContainsKey(to)).ToHashSet();
            ProjectRecord placed = Bound((open.Count == 0 ? record : record.Without(open)).Led(ids), bindings[record.Id], values);
            placed = placed with { Name = record == Records[0] ? rootName : placed.Name.Replace("{name}", rootName, StringComparison.Ordinal) };
            result.Add(placed is Equipment equipment && record == Records[0] ? equipment with { Placed = new Placement(Id, Name, Revision, values, externals is { Count: > 0 } ? externals : null) } : placed);
        }
        return result;
    }

    /// <summary>A record with the values of its parameters in place.</summary>
    private ProjectRecord Bound(ProjectRecord record, IEnumerable<TemplateBinding> bindings, IReadOnlyDictionary<string, string> values)
    {
        JsonNode? node = null;
        foreach (TemplateBinding binding in bindings)
        {
            node ??= JsonSerializer.SerializeToNode(record, RecordJson.Options)!;
            TemplateParameter parameter = Parameters.First(p => p.Name == binding.Parameter);
            Set(node, binding.Path.Split('.'), parameter.Kind == ParameterKind.Number ? JsonValue.Create(double.Parse(values[parameter.Name], CultureInfo.InvariantCulture)) : JsonValue.Create(values[parameter.Name]));
        }
        return node is null ? record : node.Deserialize<ProjectRecord>(RecordJson.Options)!;
    }

    /// <summary>The id a record of the template has in the placement with this root.</summary>
    public static RecordId PlacedId(RecordId rootId, RecordId local) => new($"{rootId.Value}-{local.Value[2..]}");

    private static void Set(JsonNode node, string[] path, JsonNode value)
    {
        JsonNode at = node;
        foreach (string part in path[..^1])
        {
            JsonNode? next = at is JsonArray array ? array[int.Parse(part, CultureInfo.InvariantCulture)] : at[part];
            if (next is null) at[part] = next = new JsonObject();
            at = next;
        }
        if (at is JsonArray list) list[int.Parse(path[^1], CultureInfo.InvariantCulture)] = value;
        else at[path[^1]] = value;
    }
}

/// <summary>What a piece of equipment was placed from: template, revision, the values of its parameters, and where its references outward were led.</summary>
public sealed record Placement(string TemplateId, string TemplateName, int Revision, IReadOnlyDictionary<string, string> Values, IReadOnlyDictionary<RecordId, RecordId>? Externals = null)
{
    private static readonly ReferenceSort Led = ReferenceSort.Link<ProjectRecord>("was placed with", "placed", "record");

    /// <summary>The placement with what its references outward come to; one that is let go of is open from now on.</summary>
    public Placement Through(ReferenceMap map)
    {
        if (Externals is null) return this;
        Dictionary<RecordId, RecordId>? changed = null;
        foreach (var (external, to) in Externals)
        {
            RecordId? led = map.Link(Led, to);
            if (led == to) continue;
            changed ??= new(Externals);
            if (led is { } other) changed[external] = other;
            else changed.Remove(external);
        }
        return changed is null ? this : this with { Externals = changed };
    }
}
