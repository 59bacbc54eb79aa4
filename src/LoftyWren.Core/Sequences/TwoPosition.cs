using LoftyWren.Core.Explanations;

namespace LoftyWren.Core.Sequences;

/// <summary>What a two-position block tells of itself: on which side of which limit, since when, and what will turn it round.</summary>
internal static class TwoPosition
{
    public static Because? Tell(IBlockTelling told)
    {
        if (told.Input("measured") is not var (measured, unit, name) || told.Input("limit") is not var (limit, _, _)) return null;
        Block block = told.Block;
        BlockType type = BlockType.Of(block.Kind);
        string Text(double v) => told.Say(v, unit);
        if (!measured.IsUsable) return Because.Of($"{block.Called()} says nothing: {name} has no usable value.", told.Records, told.WhyOf("measured"));
        if (!limit.IsUsable) return Because.Of($"{block.Called()} says nothing: its limit has no usable value.", told.Records);
        bool isOn = told.Memory(0) > 0.5, onFall = type.Choice(block, "acts") == "onFall", off = type.Choice(block, "idle") == "off";
        double differential = type.Number(block, "differential");
        double idleAt = onFall ? limit.Value + differential : limit.Value - differential;
        string toIdle = off ? "go off" : "release", since = told.Time(told.Memory(1));
        bool beyond = onFall ? measured.Value < limit.Value : measured.Value > limit.Value;
        string side = onFall ? "under" : "over";
        if (isOn)
        {
            return Because.Of(beyond
                ? $"{name} {Text(measured.Value)} is {side} the limit {Text(limit.Value)}; on since {since}."
                : $"{name} has been {side} the limit {Text(limit.Value)} and is {Text(measured.Value)} now, not yet {(onFall ? "above" : "below")} {Text(idleAt)}; on since {since}.",
                told.Records, [Because.Of($"It will {toIdle} {(onFall ? "above" : "below")} {Text(idleAt)}.", weight: Weight.Note)]);
        }
        return Because.Of($"{name} {Text(measured.Value)} is not {side} the limit {Text(limit.Value)}; idle, so it {(off ? "commands off" : "releases")}.", told.Records,
            [Because.Of($"It will turn on {side} {Text(limit.Value)}.", weight: Weight.Note)]);
    }
}
