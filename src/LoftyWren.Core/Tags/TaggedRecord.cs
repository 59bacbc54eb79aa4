using LoftyWren.Core.Records;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tags;

/// <summary>A record that carries semantic tags: a place, equipment or a point.</summary>
public abstract record TaggedRecord : ProjectRecord
{
    private const int MostTags = 100;

    /// <summary>Direct tags: name to Zinc scalar, <c>M</c> for a marker.</summary>
    [Most(1000, Members = MostTags, Lines = true)]
    public IReadOnlyDictionary<string, string>? Tags { get; init; }

    /// <summary>Tags that the template it was placed from gives it.</summary>
    [Most(1000, Members = MostTags, Lines = true)]
    public IReadOnlyDictionary<string, string>? TemplateTags { get; init; }

    /// <summary>The checks of every name, and of tags: their names and values can be read.</summary>
    protected IEnumerable<Refusal> CheckNameAndTags() => Tags is null && TemplateTags is null ? CheckName() : CheckName().Concat(CheckTags());

    private IEnumerable<Refusal> CheckTags()
    {
        foreach (var (name, text) in (Tags ?? Nothing).Concat(TemplateTags ?? Nothing))
        {
            if (Refuse(name, text) is { } sentence) yield return new Refusal(Id, "tags", sentence);
        }
        if ((Tags?.Count ?? 0) > MostTags) yield return new Refusal(Id, "tags", $"‘{Name}’ has {Tags!.Count} direct tags; a record has at most {MostTags}.");
    }

    /// <summary>Why a tag cannot be, or null when it can.</summary>
    public static string? Refuse(string name, string text)
    {
        if (!TagSet.IsName(name)) return $"‘{name}’ is not a tag's name: it begins with a small letter, then come letters, digits and underscores.";
        if (text.Length > 1000) return $"The value of the tag ‘{name}’ is longer than 1000 characters.";
        try
        {
            Zinc.Read(text);
            return null;
        }
        catch (SyntaxException e)
        {
            return $"The tag ‘{name}’ has the value {text}, which cannot be read at character {e.At + 1}: {e.Message}";
        }
    }

    private static readonly Dictionary<string, string> Nothing = [];
}
