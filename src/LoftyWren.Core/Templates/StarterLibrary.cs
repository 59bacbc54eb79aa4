using System.Text.Json;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Templates;

/// <summary>The library that ships: a data file, read once.</summary>
public static class StarterLibrary
{
    /// <summary>Its id.</summary>
    public const string Id = "starter";

    /// <summary>Its templates.</summary>
    public static IReadOnlyList<Template> Templates { get; } = JsonSerializer.Deserialize<List<Template>>(typeof(StarterLibrary).Assembly.GetManifestResourceStream("starter.json")!, RecordJson.Options)!;
}
