using LoftyWren.Core.Points;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Live;

/// <summary>How a live value is said: as a number with a unit, or by the text of its state. That of what runs, not of what is drawn.</summary>
public sealed record ValueForm(PointKind Kind, string? Unit, IReadOnlyList<string> StateTexts)
{
    /// <summary>A bare number.</summary>
    public static ValueForm Number { get; } = new(PointKind.Analog, null, []);

    /// <summary>On or off.</summary>
    public static ValueForm OnOff { get; } = new(PointKind.Binary, null, ["off", "on"]);

    /// <summary>The reading in words.</summary>
    public string Say(Reading reading) => ValueText.Of(reading, Kind, Unit, StateTexts);
}

/// <summary>
/// A value of something installed that can be watched. It is found once, when somebody begins to watch; reading it is then a
/// few loads of memory, fit to be done for thousands of them within one turn with the site.
/// </summary>
public interface ILiveSource
{
    /// <summary>How it is said.</summary>
    ValueForm Form { get; }

    /// <summary>What it is now. Only within a turn.</summary>
    Reading Read();
}
