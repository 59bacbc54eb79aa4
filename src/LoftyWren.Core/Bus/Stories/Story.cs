namespace LoftyWren.Core.Bus.Stories;

/// <summary>What happens in an event of a story.</summary>
public enum StoryDeed
{
    /// <summary>Something that a device senses is otherwise: movement, wind, a contact that is pressed.</summary>
    Sense,
    /// <summary>An object is told a value.</summary>
    Tell,
    /// <summary>A supply is gone.</summary>
    Lose,
}

/// <summary>An event of a story.</summary>
/// <param name="Id">What it is told from others by.</param>
/// <param name="At">When, s from the beginning.</param>
/// <param name="Do">What happens.</param>
/// <param name="What">What it is about: of a sense <c>input1.contact</c>, or <c>movement</c> for all channels that sense it; of telling the path of an object; of losing <c>bus</c> or <c>mains</c>.</param>
public sealed record StoryEvent(string Id, double At, StoryDeed Do, string What)
{
    /// <summary>The value that is sensed or told.</summary>
    public double Value { get; init; }

    /// <summary>For how long, s; then it is as before. None: it stays so.</summary>
    public double? For { get; init; }

    /// <summary>The device it happens to, by its record; none: the only one of the story, or all of them for a supply.</summary>
    public Records.RecordId? DeviceId { get; init; }
}

/// <summary>What must come of a story for it to be as it should: at a moment, something is a value.</summary>
/// <param name="Id">What it is told from others by.</param>
/// <param name="At">When, s from the beginning.</param>
/// <param name="What">The path of an object, or <c>output1.level</c> of something driven.</param>
/// <param name="Value">What it must be.</param>
public sealed record StoryExpectation(string Id, double At, string What, double Value)
{
    /// <summary>By how much it may be off.</summary>
    public double Within { get; init; } = 0.5;

    /// <summary>The device, by its record; none: the only one.</summary>
    public Records.RecordId? DeviceId { get; init; }
}

/// <summary>A stretch of a lane: from a moment on a value, straight to another by another moment; why, and by which parameter.</summary>
/// <param name="At">When it begins, s.</param>
/// <param name="Value">What it is then; null where nobody knows.</param>
/// <param name="Until">When it has arrived, s; the same as <paramref name="At"/> where it stands.</param>
/// <param name="To">What it is then.</param>
/// <param name="Fact">Why.</param>
/// <param name="Parameter">The path of the parameter that decides it, or null.</param>
/// <param name="Sends">Of an object: whether it was sent.</param>
public sealed record StoryStretch(double At, double? Value, double Until, double? To, string Fact, string? Parameter, bool Sends);

/// <summary>What one thing was through a story.</summary>
/// <param name="Device">Its device, by its record.</param>
/// <param name="Channel">Its channel, by key; empty for what all sense.</param>
/// <param name="What">What it is called by: the path of an object, or channel and port.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Sort">sensed, driven or said.</param>
/// <param name="Unit">Its unit, empty for none.</param>
/// <param name="States">Its states in words by their numbers, where it is no number.</param>
/// <param name="Low">The least it may be.</param>
/// <param name="High">The most it may be.</param>
/// <param name="Stretches">What it was.</param>
public sealed record StoryLane(string Device, string Channel, string What, string Label, string Sort, string Unit, IReadOnlyList<string>? States, double Low, double High, IReadOnlyList<StoryStretch> Stretches)
{
    /// <summary>What it was at a moment, s; null where nobody knows.</summary>
    public double? ValueAt(double at)
    {
        StoryStretch? now = null;
        foreach (StoryStretch stretch in Stretches)
        {
            if (stretch.At > at + 1e-9) break;
            now = stretch;
        }
        if (now?.Value is not { } from || now.To is not { } to) return now?.To;
        return at >= now.Until || now.Until <= now.At ? to : from + ((to - from) * (at - now.At) / (now.Until - now.At));
    }
}

/// <summary>A telegram of a story.</summary>
/// <param name="At">When it was on the line, s.</param>
/// <param name="From">Who sent it, by record.</param>
/// <param name="Group">The group address.</param>
/// <param name="Value">Its value in words.</param>
public sealed record StoryTelegram(double At, string From, string Group, string Value);

/// <summary>An expectation, and what came of it.</summary>
public sealed record StoryVerdict(StoryExpectation Expected, double? Was, bool Passed, string Said);

/// <summary>How much a story loads its line: how many telegrams, in which second most, how many then and what share of it they take, %.</summary>
public sealed record StoryLoad(int Telegrams, double BusiestAt, int InBusiest, double Percent);

/// <summary>What a story came to.</summary>
public sealed record StoryRun(double Seconds, IReadOnlyList<StoryLane> Lanes, IReadOnlyList<StoryTelegram> Telegrams, IReadOnlyList<StoryVerdict> Verdicts, StoryLoad Load);
