using LoftyWren.Core.Records;

namespace LoftyWren.Server;

/// <summary>What people give as a reason: a few words in one line that everybody can read afterwards.</summary>
internal static class Reasons
{
    /// <summary>The most characters of one.</summary>
    public const int Longest = 200;

    /// <summary>What is wrong with a reason, or null.</summary>
    public static string? Trouble(string? reason, bool isNeeded = true)
    {
        if (string.IsNullOrWhiteSpace(reason)) return isNeeded ? $"Say why in a few words (at most {Longest} characters)." : null;
        if (reason.Length > Longest) return $"A reason has at most {Longest} characters; this one has {reason.Length}.";
        return reason.Any(char.IsControl) || RecordTexts.Unseen(reason) is not null ? "The reason holds a line break or a character that cannot be shown. Type it again." : null;
    }
}
