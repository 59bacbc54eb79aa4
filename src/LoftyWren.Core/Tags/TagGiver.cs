using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tags;

/// <summary>What a kind of record gives its tags with: tags that follow from what a record is and where it stands, each with why.</summary>
public sealed class TagGiver(Project project, ProjectRecord record, Action<string, TagValue, string> give)
{
    private IReadOnlyList<ProjectRecord>? _above;

    /// <summary>The project.</summary>
    public Project Project { get; } = project;

    /// <summary>All the record belongs to, innermost first.</summary>
    public IReadOnlyList<ProjectRecord> Above => _above ??= [.. Project.Lineage(record.Id).Skip(1)];

    /// <summary>The place of a kind above the record, or null.</summary>
    public Place? At(PlaceKind kind) => Above.OfType<Place>().FirstOrDefault(p => p.Kind == kind);

    /// <summary>Gives a value.</summary>
    public void Give(string name, TagValue value, string why) => give(name, value, why);

    /// <summary>Gives markers.</summary>
    public void Mark(string why, params ReadOnlySpan<string> names)
    {
        foreach (string name in names) give(name, TagValue.Marker, why);
    }

    /// <summary>Gives a reference, where there is something to refer to.</summary>
    public void Refer(string name, ProjectRecord? to, string why)
    {
        if (to is not null) give(name, new RefValue(to.Id.Value, to.Name), why);
    }
}
