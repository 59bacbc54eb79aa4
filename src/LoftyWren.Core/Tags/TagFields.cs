using LoftyWren.Core.Fields;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tags;

/// <summary>Direct tags as a field: names with spaces between them, or <c>name:value</c> in Zinc.</summary>
public static class TagFields
{
    /// <summary>The field of one sort of tagged record.</summary>
    public static Field<T> Of<T>(string? column = null)
        where T : TaggedRecord => new("tags", "Tags")
        {
            Uses = FieldUses.Import | FieldUses.Export,
            Column = column,
            Headers = ["tag"],
            Says = (_, record) => record.Tags is { } tags ? string.Join(" ", tags.OrderBy(t => t.Key, StringComparer.Ordinal).Select(t => t.Value == "M" ? t.Key : $"{t.Key}:{t.Value}")) : null,
            Reads = (_, record, text) => Read(text, out string? refusal) is var tags && refusal is null ? FieldReading.Of(record with { Tags = tags }) : FieldReading.Refused(refusal),
        };

    private static Dictionary<string, string>? Read(string text, out string? refusal)
    {
        refusal = null;
        var tags = new Dictionary<string, string>();
        try
        {
            var reader = new Zinc.ScalarReader(text);
            for (reader.Space(); reader.Now != '\0'; reader.Space())
            {
                string name = reader.While(c => char.IsAsciiLetterOrDigit(c) || c == '_', "a tag's name");
                TagValue value = TagValue.Marker;
                if (reader.Now == ':')
                {
                    reader.At++;
                    value = reader.Scalar();
                }
                tags[name] = value.ToString();
                refusal ??= TaggedRecord.Refuse(name, tags[name]);
            }
        }
        catch (SyntaxException e)
        {
            refusal = $"‘{text}’ cannot be read at character {e.At + 1}: {e.Message}";
        }
        return tags.Count == 0 ? null : new Dictionary<string, string>(tags.OrderBy(t => t.Key, StringComparer.Ordinal));
    }
}
