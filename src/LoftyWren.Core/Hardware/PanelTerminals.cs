using System.Globalization;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>A terminal of a controller: of its own, such as UI3, or of a module beside it, such as 2.UI3.</summary>
/// <param name="Terminal">Its whole name.</param>
/// <param name="Group">The terminals of its sort.</param>
/// <param name="Number">Which of them it is, from 1.</param>
/// <param name="Module">The module that it is on, or null.</param>
public readonly record struct TerminalPlace(string Terminal, TerminalGroup Group, int Number, IoModule? Module);

/// <summary>All terminals that a controller has with what stands beside it.</summary>
public static class PanelTerminals
{
    /// <summary>The modules of a controller by their addresses.</summary>
    public static IReadOnlyList<IoModule> ModulesOf(Project project, RecordId controller) => [.. project.Referrers<IoModule>(controller).OrderBy(m => m.Address)];

    /// <summary>What stands before the name of a module's terminals.</summary>
    public static string Prefix(int address) => string.Create(CultureInfo.InvariantCulture, $"{address}.");

    /// <summary>Every terminal: the controller's own first, then those of its modules by address.</summary>
    public static IEnumerable<TerminalPlace> Of(Project project, Controller controller)
    {
        if (Catalogue.Find(project, controller.ModelId) is { } model)
        {
            foreach (TerminalPlace terminal in On(model, null)) yield return terminal;
        }
        foreach (IoModule module in ModulesOf(project, controller.Id))
        {
            if (Catalogue.Find(project, module.ModelId) is not { } its) continue;
            foreach (TerminalPlace terminal in On(its, module)) yield return terminal;
        }
    }

    /// <summary>The terminals of one device.</summary>
    public static IEnumerable<TerminalPlace> On(HardwareModel model, IoModule? module)
    {
        string before = module is null ? "" : Prefix(module.Address);
        foreach (TerminalGroup group in model.Groups)
        {
            for (int n = 1; n <= group.Count; n++) yield return new TerminalPlace($"{before}{group.Prefix}{n}", group, n, module);
        }
    }

    /// <summary>The terminal of this name, or null where the controller has none; the work does not hang on how many it has.</summary>
    public static TerminalPlace? Find(Project project, Controller controller, string terminal)
    {
        int dot = terminal.IndexOf('.', StringComparison.Ordinal);
        IoModule? module = null;
        if (dot >= 0)
        {
            if (!int.TryParse(terminal.AsSpan(0, dot), NumberStyles.None, CultureInfo.InvariantCulture, out int address) || project.Find<IoModule>(project.Holder(IoModule.Key(controller.Id, address))) is not { } found) return null;
            module = found;
        }
        return Catalogue.Find(project, module?.ModelId ?? controller.ModelId)?.Find(terminal[(dot + 1)..]) is { } at && (dot < 0 || terminal.StartsWith(Prefix(module!.Address), StringComparison.Ordinal)) ? new TerminalPlace(terminal, at.Group, at.Number, module) : null;
    }

    /// <summary>All of them in a few words.</summary>
    public static string InWords(Project project, Controller controller)
    {
        IEnumerable<string> parts = ModulesOf(project, controller.Id).Select(m => (m, Model: Catalogue.Find(project, m.ModelId))).Where(x => x.Model is { Groups.Count: > 0 }).Select(x => string.Join(", ", x.Model!.Groups.Select(g => $"{Prefix(x.m.Address)}{g.Prefix}1–{g.Count}")));
        return string.Join(", ", parts.Prepend(Catalogue.Find(project, controller.ModelId)?.TerminalsInWords ?? "").Where(p => p.Length > 0));
    }
}
