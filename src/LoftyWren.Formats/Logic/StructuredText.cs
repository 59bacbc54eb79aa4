using System.Text;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;

namespace LoftyWren.Formats.Logic;

/// <summary>The logic of a sequence as structured text of IEC 61131-3, for reading and for taking elsewhere: in the order in which it is calculated, blocks that the standard has under its names, claims as assignments with their priority.</summary>
public static class StructuredText
{
    /// <summary>The program.</summary>
    public static string Write(Project project, Sequence sequence)
    {
        var identifiers = new Identifiers(project, sequence);
        var place = Typing.Of(sequence, project).Order.Select((b, i) => (Id: b.Id.Split('.')[0], i)).GroupBy(x => x.Id).ToDictionary(g => g.Key, g => g.Max(x => x.i));
        var called = sequence.Blocks.ToDictionary(b => b.Id, b => identifiers.Fresh(b.Called()));
        var byId = sequence.Blocks.ToDictionary(b => b.Id);
        string Out(string id, string pin) => StandardBlock.Of(byId[id].Kind) is { IsFunction: true } ? called[id] : $"{called[id]}.{StandardBlock.Theirs(StandardBlock.Of(byId[id].Kind)?.Outputs, pin)}";
        string Say(Source? source) => source switch
        {
            null => "(* open *)",
            ConstantSource c => Literals.Of(c) + (string.IsNullOrEmpty(c.Unit) ? "" : $" (* {c.Unit} *)"),
            BlockSource b => byId.ContainsKey(b.BlockId) ? Out(b.BlockId, b.Pin) : "(* open *)",
            _ => identifiers.Of(source),
        };
        var lines = LedgerText.Write(project, sequence).ToLookup(l => l.Of, l => l.Text);
        var body = new StringBuilder();
        foreach (Block block in sequence.Blocks.OrderBy(b => place.GetValueOrDefault(b.Id)))
        {
            StandardBlock? standard = StandardBlock.Of(block.Kind);
            BlockType type = BlockType.Of(block);
            var inputs = type.Inputs.Where(p => block.Inputs.ContainsKey(p.Name)).Select(p => (Name: StandardBlock.Theirs(standard?.Inputs, p.Name), Value: Say(block.Inputs[p.Name])));
            var settings = (standard?.Settings ?? []).Select(s => (Name: s.Theirs, Value: s.IsTime ? Literals.Time(type.Number(block, s.Ours)) : Literals.Of(type.Number(block, s.Ours))));
            if (standard is null) settings = [.. type.Numbers.Select(n => (n.Name.ToUpperInvariant(), Literals.Of(type.Number(block, n.Name)))), .. type.Choices.Select(c => (c.Name.ToUpperInvariant(), $"'{type.Choice(block, c.Name)}'")), .. type.Texts.Select(t => (t.Name.ToUpperInvariant(), $"'{BlockType.Text(block, t.Name).Replace("$", "$$", StringComparison.Ordinal).Replace("'", "$'", StringComparison.Ordinal)}'"))];
            // Modes and tables have no form in structured text: they stand as the ledger has them.
            if (block.Table is not null || type.Tables.Count > 0)
            {
                foreach (string line in lines[block.Id]) body.Append("  (* ").Append(line.Replace("*)", "* )", StringComparison.Ordinal)).AppendLine(" *)");
            }
            string given = string.Join(", ", inputs.Concat(settings).Select(i => $"{i.Name} := {i.Value}"));
            body.Append("  ").AppendLine(standard is { IsFunction: true } ? $"{called[block.Id]} := {standard.Type}({given});" : $"{called[block.Id]}({given});");
        }
        foreach (OutputCommand command in sequence.Commands)
        {
            foreach (Claim claim in command.Claims.OrderBy(c => c.Priority))
                body.AppendLine($"  {identifiers.Of(new PointSource(command.PointId))}.P{claim.Priority} := {Say(claim.Source)};{(string.IsNullOrWhiteSpace(claim.Label) ? "" : $" (* {claim.Label.Replace("*)", "* )", StringComparison.Ordinal)} *)")}");
        }
        var text = new StringBuilder($"(* {sequence.Name.Replace("*)", "* )", StringComparison.Ordinal)}: calculated every {sequence.ScanSeconds.ToString(System.Globalization.CultureInfo.InvariantCulture)} s. An output has sixteen priorities, P1 the strongest (ISO 16484-5). *)\nPROGRAM {Identifiers.Plain(sequence.Name)}\n");
        var read = sequence.Sources().Select(s => s.Source).Where(s => s is PointSource or ScheduleSource).Distinct().Select(s => (Name: identifiers.Of(s), Type: TypeOf(project, s)));
        var commanded = sequence.Commands.Select(c => (Name: identifiers.Of(new PointSource(c.PointId)), Type: "LW_OUTPUT"));
        Declare(text, "VAR_EXTERNAL", commanded.Concat(read).DistinctBy(v => v.Name));
        Declare(text, "VAR", sequence.Blocks.Select(b => (called[b.Id], StandardBlock.Of(b.Kind) is { IsFunction: true } ? BlockType.Of(b).Outputs[0].Kind == PinKind.Binary ? "BOOL" : "REAL" : StandardBlock.TypeOf(b))));
        return text.Append(body).Append("END_PROGRAM\n").ToString();
    }

    private static void Declare(StringBuilder text, string section, IEnumerable<(string Name, string Type)> variables)
    {
        var all = variables.ToList();
        if (all.Count == 0) return;
        text.Append(section).Append('\n');
        foreach (var (name, type) in all) text.Append($"  {name} : {type};\n");
        text.Append("END_VAR\n");
    }

    private static string TypeOf(Project project, Source source) => source switch
    {
        PointSource p => project.Find<Point>(p.PointId)?.Kind,
        ScheduleSource { Ahead: false } s => project.Find<Schedule>(s.ScheduleId)?.Kind,
        _ => PointKind.Analog,
    } switch
    { PointKind.Binary => "BOOL", PointKind.Multistate => "INT", _ => "REAL" };
}
