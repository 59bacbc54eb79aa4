using LoftyWren.Core.Records;

namespace LoftyWren.Core.Explanations;

/// <summary>How a fact bears on what is being explained.</summary>
public enum Weight
{
    /// <summary>It decides.</summary>
    Decides,
    /// <summary>It says something, but something else outranks it.</summary>
    Outranked,
    /// <summary>It is worth knowing: what would happen next, or what to do.</summary>
    Note,
}

/// <summary>One fact of an explanation, the records it rests on, and the facts beneath it. Made by the engine's own evaluation, never by hand on a screen.</summary>
public sealed record Because(string Fact, Weight Weight, IReadOnlyList<RecordId> Records, IReadOnlyList<Because> Under)
{
    /// <summary>A fact that decides.</summary>
    public static Because Of(string fact, IEnumerable<RecordId>? records = null, IEnumerable<Because>? under = null, Weight weight = Weight.Decides) =>
        new(fact, weight, [.. records ?? []], [.. under ?? []]);

    /// <summary>The chain as indented lines, for reports and tests.</summary>
    public string AsText(int depth = 0) => new string(' ', depth * 2) + Fact + string.Concat(Under.Select(u => "\n" + u.AsText(depth + 1)));
}
