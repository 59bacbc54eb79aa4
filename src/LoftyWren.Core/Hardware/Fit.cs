using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>Which points are kept on one device.</summary>
public enum FitTogether
{
    /// <summary>None: each goes where there is room.</summary>
    Nothing,
    /// <summary>Those of one piece of equipment.</summary>
    Equipment,
}

/// <summary>How points are fitted.</summary>
/// <param name="MayAdd">Whether modules may be added.</param>
/// <param name="Together">Which points are kept on one device.</param>
/// <param name="SparePercent">The share of each sort of point that is to find room later, %.</param>
public sealed record FitOptions(bool MayAdd = false, FitTogether Together = FitTogether.Nothing, int SparePercent = 0);

/// <summary>A proposal to put points onto terminals, all at once, and the modules that are added for them.</summary>
/// <param name="Added">Modules to add.</param>
/// <param name="Fittings">Where each point goes.</param>
/// <param name="Left">Points that find no terminal, and why.</param>
/// <param name="Price">What the modules cost.</param>
/// <param name="LeastPrice">Less than this they cannot cost for as many points.</param>
/// <param name="IsBest">Whether it is shown that nothing better can be.</param>
/// <param name="SpareLacking">How many spare terminals could not be kept.</param>
public sealed record FitProposal(IReadOnlyList<IoModule> Added, IReadOnlyList<Fitting> Fittings, IReadOnlyList<(RecordId PointId, string Why)> Left, int Price, int LeastPrice, bool IsBest, int SpareLacking);

/// <summary>Finds a terminal for each point: “fit the points”.</summary>
public static class Fit
{
    private const double UsualRunTimeSeconds = 120;

    /// <summary>
    /// A fitting for one point on one terminal with its most usual signal and its limits as the range.
    /// Null when the terminal can carry none of its signals.
    /// </summary>
    public static Fitting? Make(Project project, Controller controller, Point point, string terminal)
    {
        RecordId id = project.BindingOf(point.Id)?.Id ?? RecordId.New("fit");
        if (terminal == Fitting.MemoryTerminal)
            return new Fitting { Id = id, Name = terminal, ControllerId = controller.Id, PointId = point.Id, Terminal = terminal, Signal = Signal.Memory };
        return PanelTerminals.Find(project, controller, terminal) is { } place ? Make(id, controller, point, place) : null;
    }

    private static Fitting? Make(RecordId id, Controller controller, Point point, TerminalPlace place)
    {
        // What only a curve explains is nobody's usual signal.
        Signal? signal = Fitting.SignalsFor(point).FirstOrDefault(s => (s.Asks & SignalAsks.Curve) == 0 && place.Group.Signals.Contains(s));
        return signal is null ? null : new Fitting
        {
            Id = id,
            Name = place.Terminal,
            ControllerId = controller.Id,
            ModuleId = place.Module?.Id,
            PointId = point.Id,
            Terminal = place.Terminal,
            Signal = signal,
            Low = point.Low ?? 0,
            High = point.High ?? 100,
            RunTimeSeconds = (signal.Asks & SignalAsks.RunTime) != 0 ? UsualRunTimeSeconds : 0,
        };
    }

    /// <summary>
    /// Proposes a terminal for every given point that has none (<see cref="Placement"/>): what is wired stays, as many points
    /// find one as can at all, earlier ones first among those that want the same, and modules are added only where they may be
    /// and must be, the cheapest that do.
    /// </summary>
    public static FitProposal Propose(Project project, Controller controller, IEnumerable<Point> points, FitOptions? options = null)
    {
        options ??= new FitOptions();
        var fittings = new List<Fitting>();
        var left = new List<(RecordId, string)>();
        var waiting = new List<Point>();
        ControllerMemory memory = ControllerMemory.Of(project, controller)!;
        int values = memory.Values;
        foreach (Point point in points.Where(p => project.BindingOf(p.Id) is null))
        {
            if (!Fitting.IsForMemory(point)) waiting.Add(point);
            else if (values++ < memory.MostValues) fittings.Add(Make(project, controller, point, Fitting.MemoryTerminal)!);
            else left.Add((point.Id, $"{controller.Name} has no memory left for values ({memory.MostValues})."));
        }
        var desk = new Desk(project, controller, options, waiting);
        PlacementResult result = Placement.Solve(desk.Units, desk.Devices, desk.Limits);
        var added = desk.Build(result);
        var free = desk.Terminals(added);
        foreach (var (unit, on) in desk.Members.Zip(result.On))
        {
            var queue = new Queue<Point>(unit);
            foreach (var (device, group, count) in on.OrderBy(o => o.Device).ThenBy(o => o.Group))
            {
                for (int i = 0; i < count && queue.Count > 0; i++) fittings.Add(Make(RecordId.New("fit"), controller, queue.Dequeue(), free[(device, group)].Dequeue())!);
            }
            foreach (Point point in queue) left.Add((point.Id, desk.WhyNot(point, unit, result)));
        }
        var turn = waiting.Select((p, i) => (p.Id, i)).ToDictionary(x => x.Id, x => x.i);
        return new FitProposal([.. added.Values], [.. fittings.Where(f => f.Terminal != Fitting.MemoryTerminal).OrderBy(f => turn[f.PointId]), .. fittings.Where(f => f.Terminal == Fitting.MemoryTerminal)],
            [.. left.OrderBy(l => turn.GetValueOrDefault(l.Item1, -1))], result.Price, result.LeastPrice, result.IsBest, result.SpareLacking);
    }

    /// <summary>The question of a placement, as a controller and the points that wait ask it.</summary>
    private sealed class Desk
    {
        private readonly Project _project;
        private readonly Controller _controller;
        private readonly FitOptions _options;
        private readonly HardwareModel _model;
        private readonly Enclosure _enclosure;
        private readonly List<(IoModule? Module, List<List<TerminalPlace>> Free)> _there = [];

        public Desk(Project project, Controller controller, FitOptions options, IReadOnlyList<Point> waiting)
        {
            (_project, _controller, _options) = (project, controller, options);
            _model = Catalogue.Find(project, controller.ModelId)!;
            _enclosure = Enclosure.Of(project, controller);
            var wired = project.Referrers<Fitting>(controller.Id).Where(f => f.Terminal != Fitting.MemoryTerminal).ToList();
            var taken = wired.Select(f => f.Terminal).ToHashSet();
            var devices = new List<PlacementDevice>();
            foreach (var (module, model) in PanelTerminals.ModulesOf(project, controller.Id).Select(m => ((IoModule?)m, Catalogue.Find(project, m.ModelId))).Prepend((null, _model)))
            {
                if (model is null || model.Groups.Count == 0) continue;
                List<List<TerminalPlace>> free = [.. model.Groups.Select(g => PanelTerminals.On(model, module).Where(t => t.Group == g && !taken.Contains(t.Terminal)).ToList())];
                _there.Add((module, free));
                devices.Add(new PlacementDevice(model, [.. free.Select(f => f.Count)], true));
            }
            var units = new List<PlacementUnit>();
            var members = new List<IReadOnlyList<Point>>();
            int group = 0;
            void Unit(IEnumerable<Point> points, int? together)
            {
                foreach (var alike in points.GroupBy(Fitting.SignalsFor, Alike))
                {
                    List<Point> list = [.. alike];
                    units.Add(new PlacementUnit(Usual(alike.Key), Fitting.DirectionOf(list[0]), list.Count, together));
                    members.Add(list);
                }
            }
            if (options.Together == FitTogether.Nothing) Unit(waiting, null);
            else
            {
                foreach (var equipment in waiting.GroupBy(p => p.OwnerId)) Unit(equipment, equipment.Count() > 1 ? group++ : null);
            }
            // Spare: room for more of each sort of point, by those that will be wired then.
            foreach (var sort in waiting.Concat(wired.Select(f => project.Find<Point>(f.PointId)).OfType<Point>()).GroupBy(Fitting.SignalsFor, Alike))
            {
                int spare = (int)Math.Ceiling((sort.Count() * options.SparePercent / 100.0) - 1e-9);
                if (spare > 0 && sort.Key.Count > 0) units.Add(new PlacementUnit(Usual(sort.Key), Fitting.DirectionOf(sort.First()), spare, IsSpare: true));
            }
            int slots = Math.Max(0, _model.MostModules - (int)project.Sum(controller.Id, IoModule.Count));
            if (options.MayAdd && slots > 0)
            {
                foreach (HardwareModel model in Catalogue.Of(project).Where(m => !m.RunsPrograms))
                {
                    // As many of a model as could be of use, and no more.
                    int useful = units.Where(u => model.Groups.Any(g => Placement.RankOf(u.Signals, u.Direction, g) is not null)).Sum(u => u.Count);
                    int copies = model.Groups.Count > 0 ? Math.Min(slots, options.Together == FitTogether.Nothing ? (int)Math.Ceiling(useful / (double)model.TerminalCount * Slack) : useful) : model.Gives.Count > 0 ? Math.Min(slots, MostSupplies) : 0;
                    for (int i = 0; i < copies; i++) devices.Add(new PlacementDevice(model, [.. model.Groups.Select(g => g.Count)], false));
                }
            }
            (Units, Members, Devices) = (units, members, devices);
            Limits = new PlacementLimits(slots, Math.Max(0, _enclosure.Rails.Sum(r => Math.Max(0, controller.RailMillimetres - r.UsedMillimetres))),
                _enclosure.Supplies.Where(s => !s.IsFromOutside).ToDictionary(s => s.Supply, s => s.GivenMilliamps - s.DrawnMilliamps));
        }

        // Points of one sort share one list.
        private static readonly IEqualityComparer<IReadOnlyList<Signal>> Alike = ReferenceEqualityComparer.Instance;

        // Of a model with several sorts of terminals only some may be of use.
        private const double Slack = 3;
        private const int MostSupplies = 3;

        public IReadOnlyList<PlacementUnit> Units { get; }

        /// <summary>The points of each unit that are no spare ones, earlier ones first.</summary>
        public IReadOnlyList<IReadOnlyList<Point>> Members { get; }

        public IReadOnlyList<PlacementDevice> Devices { get; }

        public PlacementLimits Limits { get; }

        private static List<Signal> Usual(IReadOnlyList<Signal> signals) => [.. signals.Where(s => (s.Asks & SignalAsks.Curve) == 0)];

        /// <summary>The modules that are added, by their device: with the next free addresses, each on the first rail that has room.</summary>
        public SortedDictionary<int, IoModule> Build(PlacementResult result)
        {
            var built = new SortedDictionary<int, IoModule>();
            var used = PanelTerminals.ModulesOf(_project, _controller.Id).Select(m => m.Address).ToHashSet();
            int[] room = [.. _enclosure.Rails.Select(r => _controller.RailMillimetres - r.UsedMillimetres)], turns = [.. _enclosure.Rails.Select(r => r.Devices.Select(d => d.Module?.Turn ?? 0).DefaultIfEmpty(0).Max() + 1)];
            foreach (int device in result.Added.OrderByDescending(d => Devices[d].Model.WidthMillimetres).ThenBy(d => d))
            {
                HardwareModel model = Devices[device].Model;
                int rail = Array.FindIndex(room, r => r >= model.WidthMillimetres);
                if (rail < 0) rail = Array.IndexOf(room, room.Max());
                int address = Enumerable.Range(1, IoModule.MostAddress).First(a => !used.Contains(a));
                used.Add(address);
                room[rail] -= model.WidthMillimetres;
                built[device] = new IoModule { Id = RecordId.New("mod"), Name = $"A{address}", ControllerId = _controller.Id, ModelId = model.Id, Address = address, Rail = rail + 1, Turn = turns[rail]++ };
            }
            return built;
        }

        /// <summary>The free terminals by device and group, in panel order.</summary>
        public Dictionary<(int Device, int Group), Queue<TerminalPlace>> Terminals(IReadOnlyDictionary<int, IoModule> added)
        {
            var free = new Dictionary<(int, int), Queue<TerminalPlace>>();
            for (int d = 0; d < Devices.Count; d++)
            {
                for (int g = 0; g < Devices[d].Free.Count; g++)
                {
                    if (d < _there.Count) free[(d, g)] = new(_there[d].Free[g]);
                    else if (added.TryGetValue(d, out IoModule? module)) free[(d, g)] = new(PanelTerminals.On(Devices[d].Model, module).Where(t => t.Group == Devices[d].Model.Groups[g]));
                }
            }
            return free;
        }

        /// <summary>Why a point has found no terminal.</summary>
        public string WhyNot(Point point, IReadOnlyList<Point> unit, PlacementResult result)
        {
            IReadOnlyList<Signal> signals = Usual(Fitting.SignalsFor(point));
            Direction direction = Fitting.DirectionOf(point);
            int could = PanelTerminals.Of(_project, _controller).Count(t => Placement.RankOf(signals, direction, t.Group) is not null);
            bool isSold = Catalogue.Of(_project).Any(m => !m.RunsPrograms && m.Groups.Any(g => Placement.RankOf(signals, direction, g) is not null));
            if (could == 0 && (!_options.MayAdd || !isSold)) return isSold && _model.MostModules > 0 ? $"No terminal of {_controller.Name} can carry ‘{point.Name}’; a module could." : $"No terminal of {_controller.Name} can carry ‘{point.Name}’.";
            int index = -1;
            for (int i = 0; i < Members.Count; i++)
            {
                if (ReferenceEquals(Members[i], unit)) index = i;
            }
            if (Units[index].Together is { } group)
            {
                int many = Units.Where(u => u.Together == group).Sum(u => u.Count);
                return $"The {many} points of ‘{_project.Find(point.OwnerId)?.Name}’ are to be on one device, and none has room for all of them. Let them be apart, or use a larger module.";
            }
            string taken = $"All {could} terminals of {_controller.Name} that could carry ‘{point.Name}’ are taken";
            if (!_options.MayAdd) return _model.MostModules > 0 && Limits.Modules > 0 ? $"{taken}. Let modules be added, or use another controller." : $"{taken}.";
            if (Limits.Modules <= result.Added.Count) return $"{taken}, and {_model.Name} takes no more than {_model.MostModules} modules. Use another controller.";
            int width = result.Added.Sum(d => Devices[d].Model.WidthMillimetres);
            int narrowest = Catalogue.Of(_project).Where(m => !m.RunsPrograms && m.Groups.Any(g => Placement.RankOf(signals, direction, g) is not null)).Min(m => m.WidthMillimetres);
            return Limits.Millimetres - width < narrowest ? $"{taken}, and the rails have no room for another module. Give the enclosure another rail, or wider ones." : $"{taken}, and the supplies have no current left for another module. Add a power supply.";
        }
    }
}
