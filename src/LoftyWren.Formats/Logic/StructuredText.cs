using System.Text;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Formats.Logic;

/// <summary>
/// The logic of a sequence as structured text of IEC 61131-3, complete in itself: the functions and function blocks that the
/// standard does not have, the program, and a configuration that declares what it reads and commands and runs it at its scan
/// period. Each claim on an output is a variable with its priority (ISO 16484-5) and one that tells whether it counts.
/// </summary>
public static class StructuredText
{
    /// <summary>The text.</summary>
    public static string Write(Project project, Sequence sequence)
    {
        var program = new LogicProgram(project, sequence);
        var text = new StringBuilder();
        Pou main = program.Program;
        foreach (Pou unit in program.Units) text.Append(unit.Text()).Append('\n');
        text.Append(main.Text()).Append('\n');
        text.Append("CONFIGURATION LW_Configuration\n").Append(Pou.Declared(new Section("VAR_GLOBAL", [.. program.Globals, .. program.Counting]), "  "));
        text.Append($"  RESOURCE LW_Resource ON LW_Controller\n    TASK LW_Scan(INTERVAL := {Literals.Time(sequence.ScanSeconds)}, PRIORITY := 1);\n    PROGRAM LW_Instance WITH LW_Scan : {main.Name};\n  END_RESOURCE\nEND_CONFIGURATION\n");
        return text.ToString();
    }
}
