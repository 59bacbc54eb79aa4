namespace LoftyWren.VirtualSite.Plant;

/// <summary>Chance that is the same on every machine and at every start, and for one thing the same whatever stands beside it.</summary>
public static class Chance
{
    /// <summary>A seed of a thing's own, by its name: FNV-1a.</summary>
    public static uint SeedOf(string name)
    {
        uint hash = 2166136261;
        foreach (char c in name) hash = unchecked((hash ^ c) * 16777619);
        return hash;
    }

    /// <summary>A number by two others, each bit as likely set as not.</summary>
    public static uint Draw(uint a, long b)
    {
        uint h = unchecked((a * 2654435761u) ^ ((uint)b * 2246822519u));
        h ^= h >> 15;
        h = unchecked(h * 2246822519u);
        return h ^ (h >> 13);
    }
}
