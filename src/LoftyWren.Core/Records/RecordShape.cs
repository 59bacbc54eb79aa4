using System.Collections;
using System.Reflection;
using System.Text.Json.Serialization;

namespace LoftyWren.Core.Records;

/// <summary>What records are made of, read once from their declarations.</summary>
public static class RecordShape
{
    /// <summary>The sorts of record.</summary>
    public static IReadOnlyList<Type> Sorts { get; } = [.. RecordKinds.All.Select(k => k.Type)];

    /// <summary>All properties that are kept, of records and of all parts that can be come to from one.</summary>
    public static IReadOnlyList<PropertyInfo> Properties { get; } = Reach();

    /// <summary>Whether a property of this type holds ids of records: one, a list of them, or a table with them.</summary>
    public static bool HoldsIds(Type type) => type == typeof(RecordId) || type == typeof(RecordId?) || (type.IsGenericType && typeof(IEnumerable).IsAssignableFrom(type) && type.GetGenericArguments().Any(HoldsIds));

    private static List<PropertyInfo> Reach()
    {
        var properties = new List<PropertyInfo>();
        var seen = new HashSet<Type>();
        var open = new Queue<Type>(Sorts);
        while (open.TryDequeue(out Type? type))
        {
            foreach (Type part in (Type[])[.. type.IsGenericType ? type.GetGenericArguments() : [], .. type.GetCustomAttributes<JsonDerivedTypeAttribute>().Select(a => a.DerivedType)]) open.Enqueue(part);
            if (type.Namespace?.StartsWith("LoftyWren", StringComparison.Ordinal) != true || type.IsEnum || type == typeof(RecordId) || !seen.Add(type)) continue;
            foreach (PropertyInfo property in type.GetProperties(BindingFlags.Public | BindingFlags.Instance).Where(p => p.GetMethod is not null && p.SetMethod is not null && p.GetIndexParameters().Length == 0))
            {
                properties.Add(property);
                open.Enqueue(Nullable.GetUnderlyingType(property.PropertyType) ?? property.PropertyType);
            }
        }
        return properties;
    }
}
