namespace LoftyWren.Core.Hardware;

/// <summary>Software parts with all that they need.</summary>
public static class PartClosure
{
    /// <summary>The parts with the given keys and all that they need, in an order in which each comes after what it needs; keys that a model has not are told apart.</summary>
    public static (IReadOnlyList<SoftwarePart> Parts, IReadOnlyList<(string Key, string NeededBy)> Missing) Of(HardwareModel model, IEnumerable<string> keys)
    {
        var ordered = new List<SoftwarePart>();
        var missing = new List<(string, string)>();
        var seen = new HashSet<string>();
        void Add(string key, string by)
        {
            if (!seen.Add(key)) return;
            if (model.Parts.FirstOrDefault(p => p.Key == key) is not { } part)
            {
                missing.Add((key, by));
                return;
            }
            foreach (string need in part.Needs) Add(need, part.Name);
            ordered.Add(part);
        }
        foreach (string key in keys) Add(key, "the application");
        return (ordered, missing);
    }

    /// <summary>Parts that need each other in a circle, or null; the first stands at the end again.</summary>
    public static IReadOnlyList<string>? Circle(IReadOnlyList<SoftwarePart> parts)
    {
        var done = new HashSet<string>();
        var path = new List<string>();
        IReadOnlyList<string>? Walk(string key)
        {
            if (path.IndexOf(key) is >= 0 and var at) return [.. path.Skip(at), key];
            if (!done.Add(key) || parts.FirstOrDefault(p => p.Key == key) is not { } part) return null;
            path.Add(key);
            foreach (string need in part.Needs)
            {
                if (Walk(need) is { } circle) return circle;
            }
            path.RemoveAt(path.Count - 1);
            return null;
        }
        foreach (SoftwarePart part in parts)
        {
            if (Walk(part.Key) is { } circle) return circle;
        }
        return null;
    }
}
