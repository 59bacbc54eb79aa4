using System.Xml.Linq;

namespace LoftyWren.Core.Sequences;

/// <summary>The help of one kind of block, in the words of its documentation comment; what is said of its start and of changes is empty where it has no memory and no settings that last.</summary>
public sealed record BlockHelp(string Summary, string Formula, string Units, string Status, string Edges, string Start, string Change)
{
    private static readonly Lazy<IReadOnlyDictionary<BlockKind, BlockHelp>> Texts = new(() =>
    {
        XDocument document = XDocument.Load(Path.ChangeExtension(typeof(BlockKind).Assembly.Location, ".xml"));
        string prefix = $"F:{typeof(BlockKind).FullName}.";
        return document.Descendants("member")
            .Where(m => m.Attribute("name")!.Value.StartsWith(prefix, StringComparison.Ordinal))
            .ToDictionary(m => Enum.Parse<BlockKind>(m.Attribute("name")!.Value[prefix.Length..]), m => new BlockHelp(Text(m, "summary"), Text(m, "formula"), Text(m, "units"), Text(m, "status"), Text(m, "edges"), Text(m, "start"), Text(m, "change")));

        static string Text(XElement member, string tag) => member.Element(tag)?.Value.Trim() ?? "";
    });

    /// <summary>The help of a kind.</summary>
    public static BlockHelp Of(BlockKind kind)
    {
        BlockHelp help = Texts.Value[kind];
        bool remembers = BlockType.Of(kind).HasMemory;
        return help with
        {
            Start = help.Start.Length > 0 || remembers ? help.Start : "It has no memory: the first scan, and the one after power came back, are like any other.",
            Change = help.Change.Length > 0 || remembers ? help.Change : "At once: the next scan calculates with it.",
        };
    }
}
