using System.Xml.Linq;

namespace LoftyWren.Core.Sequences;

/// <summary>The help of one kind of block, in the words of its documentation comment.</summary>
public sealed record BlockHelp(string Summary, string Formula, string Units, string Status, string Edges)
{
    private static readonly Lazy<IReadOnlyDictionary<BlockKind, BlockHelp>> Texts = new(() =>
    {
        XDocument document = XDocument.Load(Path.ChangeExtension(typeof(BlockKind).Assembly.Location, ".xml"));
        string prefix = $"F:{typeof(BlockKind).FullName}.";
        return document.Descendants("member")
            .Where(m => m.Attribute("name")!.Value.StartsWith(prefix, StringComparison.Ordinal))
            .ToDictionary(m => Enum.Parse<BlockKind>(m.Attribute("name")!.Value[prefix.Length..]), m => new BlockHelp(Text(m, "summary"), Text(m, "formula"), Text(m, "units"), Text(m, "status"), Text(m, "edges")));

        static string Text(XElement member, string tag) => member.Element(tag)?.Value.Trim() ?? "";
    });

    /// <summary>The help of a kind.</summary>
    public static BlockHelp Of(BlockKind kind) => Texts.Value[kind];
}
