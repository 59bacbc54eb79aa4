using System.Collections;

namespace LoftyWren.Core.Tags;

/// <summary>
/// The tags of one record, by name. Names are interned, so that finding one compares references; a record has a dozen
/// tags or two, and a plain walk over them is quicker than a table.
/// </summary>
public sealed class TagSet : IReadOnlyCollection<KeyValuePair<string, TagValue>>
{
    private readonly string[] _names;
    private readonly TagValue[] _values;

    /// <summary>A set of tags, ordered by name.</summary>
    public TagSet(IEnumerable<KeyValuePair<string, TagValue>> tags)
    {
        KeyValuePair<string, TagValue>[] all = [.. tags.OrderBy(t => t.Key, StringComparer.Ordinal)];
        _names = [.. all.Select(t => string.Intern(t.Key))];
        _values = [.. all.Select(t => t.Value)];
    }

    /// <summary>No tags.</summary>
    public static TagSet Empty { get; } = new([]);

    /// <inheritdoc/>
    public int Count => _names.Length;

    /// <summary>The tag's value, or null. The name must be interned.</summary>
    public TagValue? Find(string internedName)
    {
        for (int i = 0; i < _names.Length; i++)
        {
            if (ReferenceEquals(_names[i], internedName)) return _values[i];
        }
        return null;
    }

    /// <summary>The tag's value, or null.</summary>
    public TagValue? this[string name] => string.IsInterned(name) is { } interned ? Find(interned) : null;

    /// <inheritdoc/>
    public IEnumerator<KeyValuePair<string, TagValue>> GetEnumerator()
    {
        for (int i = 0; i < _names.Length; i++) yield return new(_names[i], _values[i]);
    }

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    /// <summary>Whether both hold the same tags with the same values.</summary>
    public bool SameAs(TagSet other) => this.SequenceEqual(other);

    /// <summary>Whether a text may be a tag's name: a small letter, then letters, digits and underscores; at most 60.</summary>
    public static bool IsName(string name) => name.Length is > 0 and <= 60 && char.IsAsciiLetterLower(name[0]) && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_');
}
