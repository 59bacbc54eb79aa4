using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>A point that comes to another terminal, or to none and why.</summary>
public sealed record ExchangedPoint(RecordId PointId, string From, string? To, string? Why);

/// <summary>A device of a panel with another model in its place: which points stay where they are, which move, which find no terminal.</summary>
/// <param name="Stays">How many points stay on their terminals.</param>
/// <param name="Moves">Those that move or find none.</param>
/// <param name="Edits">The whole, as one change; points that find no terminal are taken off.</param>
public sealed record Exchange(int Stays, IReadOnlyList<ExchangedPoint> Moves, IReadOnlyList<Edit> Edits)
{
    /// <summary>
    /// Works out what comes of another model in the place of a module, or of the controller itself where no module is given.
    /// A point keeps its terminal where the new model has one of that name for its signal; else it takes the first free one there that has.
    /// </summary>
    public static Exchange Of(Project project, Controller controller, IoModule? module, HardwareModel model)
    {
        var on = project.Referrers<Fitting>(module?.Id ?? controller.Id).Where(f => f.ModuleId == module?.Id && f.Terminal != Fitting.MemoryTerminal).ToList();
        var places = PanelTerminals.On(model, module).ToList();
        var taken = new HashSet<string>();
        var waiting = new List<Fitting>();
        int stays = 0;
        foreach (Fitting fitting in on)
        {
            if (places.Any(p => p.Terminal == fitting.Terminal && p.Group.Signals.Contains(fitting.Signal)) && taken.Add(fitting.Terminal)) stays++;
            else waiting.Add(fitting);
        }
        ProjectRecord changed = module is null ? controller with { ModelId = model.Id } : module with { ModelId = model.Id };
        var edits = new List<Edit> { Edit.Of(changed, project.FindEntry(changed.Id)!.Revision) };
        var moves = new List<ExchangedPoint>();
        var order = places.Select((p, i) => (p.Terminal, i)).ToDictionary(x => x.Terminal, x => x.i);
        foreach (Fitting fitting in waiting.OrderBy(f => f.Terminal.Length).ThenBy(f => f.Terminal, StringComparer.Ordinal))
        {
            long revision = project.FindEntry(fitting.Id)!.Revision;
            TerminalPlace to = places.FirstOrDefault(p => !taken.Contains(p.Terminal) && p.Group.Signals.Contains(fitting.Signal));
            if (to.Terminal is null)
            {
                moves.Add(new ExchangedPoint(fitting.PointId, fitting.Terminal, null, $"{model.Name} has no terminal left that carries {fitting.Signal.Name}."));
                edits.Add(Edit.Removing(fitting.Id, revision));
                continue;
            }
            taken.Add(to.Terminal);
            moves.Add(new ExchangedPoint(fitting.PointId, fitting.Terminal, to.Terminal, null));
            edits.Add(Edit.Of(fitting with { Name = to.Terminal, Terminal = to.Terminal }, revision));
        }
        return new Exchange(stays, moves, edits);
    }
}
