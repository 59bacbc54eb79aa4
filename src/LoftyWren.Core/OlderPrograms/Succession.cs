using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.OlderPrograms;

/// <summary>What of the memory of a block of an older version a block in its place takes up.</summary>
/// <param name="To">The kind that takes it up.</param>
/// <param name="Suffix">What its id has behind that of the old block.</param>
/// <param name="Cells">Its first cells, of those of the old block.</param>
public sealed record Inheritance(BlockKind To, string Suffix, Func<double?[], double?[]> Cells);

/// <summary>What stands in the place of a block of an older version.</summary>
/// <param name="Blocks">The blocks, the last of which has the id of the old one, so that its lines go on; none where it cannot be carried over.</param>
/// <param name="Changed">What was done, or why it could not be.</param>
/// <param name="Risk">In what the new behaves otherwise; null where it does what the old did.</param>
public sealed record Succession(IReadOnlyList<Block> Blocks, string Changed, string? Risk = null)
{
    /// <summary>What the id of a block has behind it that is not the last in its place.</summary>
    public const string Inner = "-loop";

    /// <summary>One that cannot be carried over, and what to do.</summary>
    public static Succession None(string why) => new([], why);

    /// <summary>The unit of a line into a block where it can be known without the rest; null elsewhere.</summary>
    private static string? UnitOf(Project project, Source? source) => source switch
    {
        PointSource point => project.Find<Point>(point.PointId)?.Unit,
        ConstantSource constant => constant.Unit,
        _ => null,
    };

    /// <summary>A loop by its band becomes a PID: 100 % over the band is its gain.</summary>
    public static Succession OfPiBand(Project project, BlockType type, Block block)
    {
        double band = type.Number(block, "band"), reset = type.Number(block, "reset");
        var numbers = new Dictionary<string, double> { ["gain"] = 100 / band, ["ti"] = reset * 60 };
        const string Risk = "At an end of its range the old integral ran on over the whole range; that of the PID goes back at once, so that it comes away from the end earlier.";
        var loop = new Block { Id = block.Id, Kind = BlockKind.Pid, Label = block.Label, Numbers = numbers, Choices = block.Choices, Inputs = block.Inputs };
        string became = FormattableString.Invariant($"A band of {band:0.###} became a gain of {100 / band:0.###} %, a reset of {reset:0.###} min an integral time of {reset * 60:0.###} s.");
        if (block.Inputs.GetValueOrDefault("enable") is not { } enable) return new Succession([loop], became, Risk);
        // Disabled, the old one commanded 0 %; a PID releases.
        var inner = loop with { Id = block.Id + Inner, Label = null };
        var choose = new Block { Id = block.Id, Kind = BlockKind.Sel, Label = block.Label, Inputs = new Dictionary<string, Source> { ["g"] = enable, ["in0"] = new ConstantSource(0, "%"), ["in1"] = new BlockSource(inner.Id) } };
        return new Succession([inner, choose], became + " Disabled it commanded 0 %: a Select behind it keeps that.", Risk
            + " Enabled again, the PID goes on with the integral that it had; the old one began without any."
            + " While its enable is in fault or released, the old one commanded 0 %; the Select is in fault or released as well."
            + " While it is disabled and its measurement or setpoint is in fault, the old one was in fault; the Select gives 0 %."
            + " Stale and overridden marks of its enable now reach the output; those of its measurement no longer do while it is disabled.");
    }

    /// <summary>A switch with two limits becomes a two-position control with a differential.</summary>
    public static Succession OfTwoLimits(Project project, BlockType type, Block block)
    {
        double on = type.Number(block, "on"), off = type.Number(block, "off"), differential = Math.Abs(on - off);
        if (differential < 0.01) return None("Its two limits are the same, and a two-position control needs a differential of 0.01 at least. Decide on one and put a Two-position in its place.");
        Source? measured = block.Inputs.GetValueOrDefault("measured");
        if (measured is null) return None("Nothing is connected to it. Connect it, or remove it.");
        if (measured is BlockSource or ScheduleSource) return None("What it measures comes from another block, so that the unit of its limits is not known. Put a Two-position in its place, and give its limit the unit that you mean.");
        var next = new Block
        {
            Id = block.Id,
            Kind = BlockKind.TwoPosition,
            Label = block.Label,
            Numbers = new Dictionary<string, double> { ["differential"] = differential },
            Choices = new Dictionary<string, string> { ["acts"] = on > off ? "onRise" : "onFall", ["idle"] = "off" },
            Inputs = new Dictionary<string, Source> { ["measured"] = measured, ["limit"] = new ConstantSource(on, UnitOf(project, measured)) },
        };
        return new Succession([next], FormattableString.Invariant($"On at {on:0.###} and off at {off:0.###} became a limit of {on:0.###} with a differential of {differential:0.###}."));
    }

    /// <summary>A timer in minutes becomes one of the three timers of the standard, in seconds.</summary>
    public static Succession OfMinuteTimer(Project project, BlockType type, Block block)
    {
        double minutes = type.Number(block, "minutes");
        bool isPulse = type.Choice(block, "mode") == "pulse";
        BlockKind kind = isPulse ? BlockKind.Tp : BlockKind.Ton;
        var next = new Block { Id = block.Id, Kind = kind, Label = block.Label, Numbers = new Dictionary<string, double> { ["pt"] = minutes * 60 }, Inputs = block.Inputs };
        return new Succession([next], FormattableString.Invariant($"{minutes:0.###} min became {minutes * 60:0.###} s of the standard's {BlockType.Of(kind).Name}."),
            isPulse ? "The old pulse began anew at every edge that came meanwhile; that of the standard does not count an edge during the pulse. While its input was in fault the old one said nothing; that of the standard lets the pulse run out." : null);
    }
}
