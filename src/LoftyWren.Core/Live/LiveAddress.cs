using LoftyWren.Core.Records;

namespace LoftyWren.Core.Live;

/// <summary>What live values are watched by: a letter, a colon, a record, and with a slash one of its parts — <c>p:POINT</c>, <c>s:SCHEDULE</c>, <c>b:SEQUENCE/BLOCK/PIN</c>.</summary>
public static class LiveAddress
{
    /// <summary>The record and the part that an address means; null where it is none.</summary>
    public static (RecordId Id, string Part)? Read(string address)
    {
        int colon = address.IndexOf(':', StringComparison.Ordinal), slash = address.IndexOf('/', StringComparison.Ordinal);
        if (colon < 1) return null;
        string id = slash < 0 ? address[(colon + 1)..] : slash > colon ? address[(colon + 1)..slash] : "";
        return RecordId.IsValid(id) ? (new RecordId(id), slash < 0 ? "" : address[(slash + 1)..]) : null;
    }

    /// <summary>The address of a point.</summary>
    public static string Point(RecordId id) => $"p:{id}";

    /// <summary>The address of a schedule, or of what it looks ahead to.</summary>
    public static string Schedule(RecordId id, bool ahead = false) => ahead ? $"s:{id}/ahead" : $"s:{id}";

    /// <summary>The address of an output pin of a block.</summary>
    public static string Pin(RecordId sequence, string block, string pin) => $"b:{sequence}/{block}/{pin}";
}
