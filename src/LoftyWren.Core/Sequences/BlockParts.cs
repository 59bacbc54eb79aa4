namespace LoftyWren.Core.Sequences;

/// <summary>What definitions of blocks are put together from.</summary>
internal static class BlockParts
{
    public static readonly Pin[] BinaryOut = [new("out", "out", PinKind.Binary)], AnalogOut = [new("out", "out", PinKind.Analog)], AnyOut = [new("out", "out", PinKind.Any)];

    public static readonly Pin[] BinaryIn = [new("in", "in", PinKind.Binary, true)], AnalogIn = [new("in", "in", PinKind.Analog, true)];

    /// <summary>As many like inputs as there are at most, of which the first so many must be connected.</summary>
    public static Pin[] Many(PinKind kind, int required = 2) => [.. Enumerable.Range(1, BlockType.MostInputs).Select(n => new Pin($"in{n}", $"{n}", kind, n <= required))];

    public static Pin[] Two(PinKind kind) => [new("in1", "1", kind, true), new("in2", "2", kind, true)];

    public static Pin In(string name, string label, PinKind kind = PinKind.Analog, bool required = true) => new(name, label, kind, required);

    public static Pin Out(string name, string label, string? unit = null, PinKind kind = PinKind.Analog) => new(name, label, kind) { Unit = unit };

    public static Pin On(string name, string label) => new(name, label, PinKind.Binary);

    public static ChoiceSetting Choice(string name, string label, params (string Value, string Label)[] options) => new(name, label, [.. options.Select(o => new ChoiceOption(o.Value, o.Label))]);

    /// <summary>A kind without memory, unless it is said to have some.</summary>
    public static BlockType Plain(BlockKind kind, string name, string words, string group, Pin[] inputs, Pin[] outputs, bool memory = false, NumberSetting[]? numbers = null, ChoiceSetting[]? choices = null) =>
        new(kind, name, words, group, inputs, outputs, numbers ?? [], choices ?? [], memory);

    public static Func<BlockType, Block, BlockSpeech> Always { get; } = (_, _) => BlockSpeech.Always;

    /// <summary>Whether all of one range is above all of another, or none of it.</summary>
    public static Func<(double Low, double High), (double Low, double High), double?> Above(bool orEqual) => (a, b) =>
        a.Low > b.High || (orEqual && a.Low >= b.High) ? 1 : a.High < b.Low || (!orEqual && a.High <= b.Low) ? 0 : null;

    /// <summary>Whether all of one range is below all of another, or none of it.</summary>
    public static Func<(double Low, double High), (double Low, double High), double?> Below(bool orEqual) => (a, b) => Above(orEqual)(b, a);

    /// <summary>Refuses a block whose lower setting is not below its upper.</summary>
    public static Func<BlockType, Block, string?> Rising(string low, string high) => (type, block) =>
        type.Number(block, low) < type.Number(block, high) ? null : $"The ‘{type.Numbers.First(n => n.Name == low).Label}’ of ‘{block.Called()}’ must be below its ‘{type.Numbers.First(n => n.Name == high).Label}’.";
}
