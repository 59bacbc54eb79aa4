using System.Collections;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace LoftyWren.Core.Records;

/// <summary>The one JSON form of records, for the wire, the database and files: camelCase, enumerations as words, nulls left out.</summary>
public static class RecordJson
{
    /// <summary>The shared options.</summary>
    public static JsonSerializerOptions Options { get; } = Configure(new JsonSerializerOptions());

    /// <summary>Sets another options object to the same form.</summary>
    public static JsonSerializerOptions Configure(JsonSerializerOptions options)
    {
        options.PropertyNamingPolicy = JsonNamingPolicy.CamelCase;
        options.DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull;
        options.Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping;
        options.MaxDepth = 32;
        options.NumberHandling = JsonNumberHandling.Strict;
        // A null or a gap where the type allows none is an error with a path, never a null that turns up later.
        options.RespectNullableAnnotations = true;
        options.RespectRequiredConstructorParameters = true;
        options.AllowOutOfOrderMetadataProperties = true;
        options.TypeInfoResolver = new DefaultJsonTypeInfoResolver { Modifiers = { TellKinds, LeaveOutWhatFollows, LetNullsBeLeftOut, KeepNullsOutOfLists } };
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false));
        return options;
    }

    /// <summary>A record says of which kind it is by the kind's key.</summary>
    private static void TellKinds(JsonTypeInfo type)
    {
        if (type.Type != typeof(ProjectRecord)) return;
        type.PolymorphismOptions = new JsonPolymorphismOptions { TypeDiscriminatorPropertyName = "type", UnknownDerivedTypeHandling = JsonUnknownDerivedTypeHandling.FailSerialization };
        foreach (RecordKind kind in RecordKinds.All) type.PolymorphismOptions.DerivedTypes.Add(new JsonDerivedType(kind.Type, kind.Key));
    }

    /// <summary>Noun and parent follow from the other fields; overriding members do not inherit the attribute that says so.</summary>
    private static void LeaveOutWhatFollows(JsonTypeInfo type)
    {
        if (!typeof(ProjectRecord).IsAssignableFrom(type.Type)) return;
        for (int i = type.Properties.Count - 1; i >= 0; i--)
        {
            if (type.Properties[i].Name is "noun" or "parentId") type.Properties.RemoveAt(i);
        }
    }

    /// <summary>Nulls are not written, so what may be null need not be there.</summary>
    private static void LetNullsBeLeftOut(JsonTypeInfo type)
    {
        foreach (JsonPropertyInfo property in type.Properties)
        {
            if (property.AssociatedParameter is { IsNullable: true }) property.IsRequired = false;
        }
    }

    /// <summary>No list and no table of ours holds a null; the annotations alone do not see into them.</summary>
    private static void KeepNullsOutOfLists(JsonTypeInfo type)
    {
        if (type.Kind == JsonTypeInfoKind.Enumerable && type.ElementType is { IsValueType: false })
            type.OnDeserialized = list => Refuse(((IEnumerable)list).Cast<object?>().Contains(null));
        else if (type.Kind == JsonTypeInfoKind.Dictionary && type.ElementType is { IsValueType: false })
            type.OnDeserialized = table => Refuse(table is IDictionary { Values: var values } && values.Cast<object?>().Contains(null));

        static void Refuse(bool holdsNull)
        {
            if (holdsNull) throw new JsonException("A null stands in a list where a value belongs.");
        }
    }

    /// <summary>The record as JSON text.</summary>
    public static string Write(ProjectRecord record) => JsonSerializer.Serialize(record, Options);

    /// <summary>The record a text stands for. Throws <see cref="JsonException"/> with a path when it stands for none.</summary>
    public static ProjectRecord Read(string json)
    {
        try
        {
            return JsonSerializer.Deserialize<ProjectRecord>(json, Options) ?? throw new JsonException("The text is null, not a record.");
        }
        catch (NotSupportedException e)
        {
            throw new JsonException("The record does not say of which sort it is.", e);
        }
    }

    /// <summary>Whether two records say the same in every field, collections included.</summary>
    public static bool Same(ProjectRecord? a, ProjectRecord? b) =>
        ReferenceEquals(a, b) || (a is not null && b is not null && a.GetType() == b.GetType() && (a.Equals(b) || Write(a) == Write(b)));
}
