using System.Text;

namespace LoftyWren.Formats.Logic;

/// <summary>A variable of a program: its name, its type, what it begins with (null for what its type begins with), and what it is here.</summary>
internal sealed record Variable(string Name, string Type, string? Initial = null, string? Comment = null);

/// <summary>A section of declarations, such as <c>VAR_INPUT</c>.</summary>
internal sealed record Section(string Head, IReadOnlyList<Variable> Variables);

/// <summary>A program organisation unit of IEC 61131-3 (6.6): its kind (<c>FUNCTION</c>, <c>FUNCTION_BLOCK</c>, <c>PROGRAM</c>), name, what a function returns, what is declared, its statements by line, and what it is here.</summary>
internal sealed record Pou(string Kind, string Name, IReadOnlyList<Section> Sections, IReadOnlyList<string> Body, string? Comment = null, string? Returns = null)
{
    /// <summary>What stands in the statements of a function for its own name until it has one.</summary>
    public const string Result = "\u0001";

    /// <summary>The variables of a section.</summary>
    public IReadOnlyList<Variable> Of(string head) => Sections.FirstOrDefault(s => s.Head == head)?.Variables ?? [];

    /// <summary>Its statements as one text.</summary>
    public string BodyText() => string.Concat(Body.Select(l => $"  {l}\n"));

    /// <summary>It as structured text.</summary>
    public string Text()
    {
        var text = new StringBuilder();
        if (Comment is not null) text.Append("(* ").Append(NameScope.Comment(Comment)).Append(" *)\n");
        text.Append($"{Kind} {Name}{(Returns is null ? "" : $" : {Returns}")}\n");
        foreach (Section section in Sections) text.Append(Declared(section));
        return text.Append(BodyText()).Append($"END_{Kind}\n").ToString();
    }

    /// <summary>A section as structured text; empty where nothing is declared.</summary>
    public static string Declared(Section section, string indent = "")
    {
        if (section.Variables.Count == 0) return "";
        var text = new StringBuilder($"{indent}{section.Head}\n");
        foreach (Variable v in section.Variables) text.Append($"{indent}  {v.Name} : {v.Type}{(v.Initial is null ? "" : $" := {v.Initial}")};{(v.Comment is null ? "" : $" (* {NameScope.Comment(v.Comment)} *)")}\n");
        return text.Append($"{indent}END_VAR\n").ToString();
    }
}
