using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Hardware;

public class FitTests
{
    private static Point Make(string id, PointKind kind, PointRole role, string? unit = null) => new()
    {
        Id = new(id),
        Name = id,
        OwnerId = Fan,
        Kind = kind,
        Role = role,
        Unit = unit,
        StateTexts = kind == PointKind.Binary ? ["off", "on"] : [],
        Fallback = role == PointRole.Sensor ? null : 0,
    };

    private static FitProposal Propose(params Point[] points)
    {
        Project project = Accept(Project(), points);
        return Fit.Propose(project, project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!, points);
    }

    [Fact]
    public void The_compact_controller_has_the_terminals_of_its_data_file()
    {
        HardwareModel model = Catalogue.Shipped.First(m => m.Id == "compact-20");
        Assert.Equal([("UI", 8), ("BI", 4), ("RO", 4), ("AO", 4)], model.Groups.Select(g => (g.Prefix, g.Count)));
        Assert.Equal(20, model.Terminals().Count());
        Assert.Equal("Universal inputs", model.GroupOf("UI8")!.Name);
        Assert.Null(model.GroupOf("UI9"));
    }

    [Fact]
    public void Each_point_goes_where_it_uses_up_least()
    {
        FitProposal proposal = Propose(Make("contact", PointKind.Binary, PointRole.Sensor), Make("temp", PointKind.Analog, PointRole.Sensor, "°C"), Make("co2", PointKind.Analog, PointRole.Sensor, "ppm"), Make("relay", PointKind.Binary, PointRole.Command), Make("valve", PointKind.Analog, PointRole.Command, "%"), Make("sp", PointKind.Analog, PointRole.Setpoint, "°C"));
        // UI1 and RO1 are taken in the kiln room already.
        Assert.Equal([("contact", "BI1", Signal.DryContact), ("temp", "UI2", Signal.Pt1000), ("co2", "UI3", Signal.Volts), ("relay", "RO2", Signal.Relay), ("valve", "AO1", Signal.Volts), ("sp", "value", Signal.Memory)],
            proposal.Fittings.Select(f => (f.PointId.Value, f.Terminal, f.Signal)));
        Assert.Empty(proposal.Left);
    }

    [Fact]
    public void What_finds_no_terminal_is_left_with_the_reason()
    {
        FitProposal proposal = Propose([.. Enumerable.Range(1, 5).Select(i => Make($"relay{i}", PointKind.Binary, PointRole.Command)), Make("mode", PointKind.Multistate, PointRole.Command) with { StateTexts = ["a", "b", "c"], Fallback = 1 }]);
        Assert.Equal(3, proposal.Fittings.Count);
        Assert.Equal("All 4 terminals of KH-C1 that could carry ‘relay4’ are taken. Let modules be added, or use another controller.", proposal.Left[0].Why);
        Assert.Equal("No terminal of KH-C1 can carry ‘mode’.", proposal.Left[^1].Why);
    }

    [Fact]
    public void A_proposal_is_always_accepted_as_it_is()
    {
        Point[] points = [.. Enumerable.Range(1, 12).Select(i => Make($"p{i}", i % 2 == 0 ? PointKind.Binary : PointKind.Analog, i % 3 == 0 ? PointRole.Command : PointRole.Sensor, i % 2 == 0 ? null : "%"))];
        Project project = Accept(Project(), points);
        FitProposal proposal = Fit.Propose(project, project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!, points);
        Project after = Accept(project, [.. proposal.Fittings.Select(f => Edit.Of(f, 0))]);
        Assert.Equal(12 - proposal.Left.Count, points.Count(p => after.Holder($"source|{p.Id}") is not null));
    }

    [Fact]
    public void A_taken_terminal_a_second_source_and_a_wrong_signal_are_refused_with_the_reason()
    {
        Project project = Accept(Project(), Make("temp", PointKind.Analog, PointRole.Sensor, "°C"), Make("valve", PointKind.Analog, PointRole.Command, "%"));
        Fitting On(string point, string terminal, Signal signal) => new() { Id = new("f9"), Name = terminal, ControllerId = KilnRoom.Controller, PointId = new(point), Terminal = terminal, Signal = signal };
        void Refuses(Fitting fitting, string sentence) => Assert.Contains(sentence, Refused(project, Edit.Of(fitting)).Select(r => r.Sentence));
        Refuses(On("temp", "UI1", Signal.Pt1000), "UI1 is taken by ‘Room temperature’. Choose a free terminal, or take that point off first.");
        Refuses(On("room-temp", "UI2", Signal.Pt1000), "This point already has a source. Move it instead of adding a second.");
        Refuses(On("temp", "RO2", Signal.Relay), "RO2 is an output and ‘temp’ is a sensor. Use an input.");
        Refuses(On("temp", "BI1", Signal.DryContact), "BI1 carries dry contact, pulses; ‘temp’ is analog and it needs Pt1000, Pt100, Ni1000 or another of 10 signals.");
        Refuses(On("valve", "RO2", Signal.Relay), "RO2 carries relay; ‘valve’ is analog and it needs 0–10 V, 4–20 mA, 2–10 V or another of 5 signals.");
        Refuses(On("temp", "UI2", Signal.DryContact), "UI2 cannot carry dry contact for ‘temp’; it can carry Pt1000, Pt100, Ni1000, NTC 10k, NTC 20k, 0–10 V, 2–10 V, 4–20 mA, potentiometer, resistance by curve.");
        Refuses(On("temp", "UI9", Signal.Pt1000), "KH-C1 has no terminal ‘UI9’. It has UI1–UI8, BI1–BI4, RO1–RO4, AO1–AO4.");
        Refuses(On("temp", "value", Signal.Memory), "‘temp’ is a sensor; it needs a terminal that measures, not a value in memory.");
        Refuses(On("temp", "UI2", Signal.Volts) with { Low = 5, High = 5 }, "The range of UI2 goes from 5 to 5; both ends must differ.");
    }

    // Four inputs for volts are listed before four that also take resistance: a humidity must not be left out for four thermometers.
    [Fact]
    public void Points_move_over_so_that_as_many_as_can_find_a_terminal()
    {
        var model = new HardwareModel("two-kinds", "Two kinds of inputs", HardwareKind.Module, 72) { Groups = [new("UV", "Voltage inputs", 4, Direction.In, [Signal.Volts, Signal.Milliamps]), new("UR", "Resistance inputs", 4, Direction.In, [Signal.Volts, Signal.Pt1000])] };
        PlacementResult result = Placement.Solve([new([Signal.Volts], Direction.In, 4), new([Signal.Pt1000, Signal.Volts], Direction.In, 4)], [new(model, [4, 4], true)], Unlimited);
        Assert.Equal((8, 8, true), (result.Placed, result.CouldBePlaced, result.IsBest));
        Assert.Equal([(0, 0, 4)], result.On[0]);
        Assert.Equal([(0, 1, 4)], result.On[1]);
    }

    private static readonly PlacementLimits Unlimited = new(0, 0, new Dictionary<string, int>());

    /// <summary>
    /// On small random questions, with groups that stay together and modules that may be added, as many points are placed as
    /// can be and what is added costs the least, found here by trying all sets of modules and all ways of putting points on them.
    /// </summary>
    [Fact]
    public void No_way_of_placing_is_better_than_the_one_found()
    {
        var random = new Random(5);
        Signal[] all = [Signal.Pt1000, Signal.Volts, Signal.Milliamps, Signal.DryContact];
        for (int round = 0; round < 120; round++)
        {
            HardwareModel Model(int n) => new($"m{n}", $"m{n}", HardwareKind.Module, random.Next(1, 4) * 18)
            {
                Groups = [.. Enumerable.Range(0, random.Next(1, 3)).Select(g => new TerminalGroup($"T{(char)('A' + g)}", "t", random.Next(1, 3), Direction.In, [.. all.Where(_ => random.Next(2) == 0).DefaultIfEmpty(Signal.Volts)]))],
                Draws = [new("bus", random.Next(1, 4) * 10)],
                Price = random.Next(1, 20),
            };
            PlacementDevice Device(HardwareModel model, bool isThere) => new(model, [.. model.Groups.Select(g => g.Count)], isThere);
            List<PlacementDevice> devices = [Device(Model(0), true), .. Enumerable.Range(1, random.Next(0, 4)).Select(n => Device(Model(n), false))];
            var limits = new PlacementLimits(random.Next(0, 4), random.Next(0, 120), new Dictionary<string, int> { ["bus"] = random.Next(0, 80) });
            PlacementUnit[] units = [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => new PlacementUnit([.. all.Where(_ => random.Next(2) == 0).DefaultIfEmpty(Signal.Volts)], Direction.In, random.Next(1, 3), random.Next(3) == 0 ? 1 : null))];
            PlacementResult result = Placement.Solve(units, devices, limits);
            var (most, least) = Best(units, devices, limits);
            Assert.Equal((most, least), (result.Placed, result.Price));
            Assert.True(result.IsBest);
            Assert.Equal(result.Placed, result.On.Sum(u => u.Sum(w => w.Count)));
            Assert.All(result.On.SelectMany(u => u), w => Assert.True(devices[w.Device].IsThere || result.Added.Contains(w.Device)));
        }

        static (int Most, int Least) Best(PlacementUnit[] units, List<PlacementDevice> devices, PlacementLimits limits)
        {
            (int Most, int Least) best = (0, 0);
            int[] addable = [.. Enumerable.Range(0, devices.Count).Where(d => !devices[d].IsThere)];
            for (int set = 0; set < 1 << addable.Length; set++)
            {
                int[] added = [.. addable.Where((_, i) => (set & (1 << i)) != 0)];
                if (added.Length > limits.Modules || added.Sum(d => devices[d].Model.WidthMillimetres) > limits.Millimetres || added.Sum(d => devices[d].Model.Draws[0].Milliamps) > limits.Supplies["bus"]) continue;
                int price = added.Sum(d => devices[d].Model.Price);
                // Every point one by one; those of a group on one device or on none.
                int[] points = [.. units.SelectMany((u, i) => Enumerable.Repeat(i, u.Count))];
                bool[] open = [.. devices.Select((d, i) => d.IsThere || added.Contains(i))];
                int[][] free = [.. devices.Select(d => d.Free.ToArray())];
                int placed = 0;
                foreach (int together in Enumerable.Range(-1, devices.Count + 1)) placed = Math.Max(placed, Try(0, together));
                if (placed > best.Most || (placed == best.Most && price < best.Least)) best = (placed, price);

                // The group is on the device, or (−1) nowhere.
                int Try(int at, int together)
                {
                    if (at == points.Length) return 0;
                    PlacementUnit unit = units[points[at]];
                    int found = unit.Together is null || together < 0 ? Try(at + 1, together) : int.MinValue / 2;
                    if (unit.Together is not null && together < 0) return found;
                    for (int d = 0; d < devices.Count; d++)
                    {
                        if (!open[d] || (unit.Together is not null && d != together)) continue;
                        for (int g = 0; g < free[d].Length; g++)
                        {
                            if (free[d][g] == 0 || !unit.Signals.Intersect(devices[d].Model.Groups[g].Signals).Any()) continue;
                            free[d][g]--;
                            found = Math.Max(found, 1 + Try(at + 1, together));
                            free[d][g]++;
                        }
                    }
                    return found;
                }
            }
            return best;
        }
    }

    private static Project Plant(params Point[] points)
    {
        Project project = Accept(Project(), points);
        Core.Hardware.Controller controller = project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!;
        return Accept(project, Edit.Of(controller with { ModelId = "plant-12", Rails = 3 }, project.FindEntry(controller.Id)!.Revision));
    }

    private static FitProposal Propose(Project project, FitOptions options) => Fit.Propose(project, project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!, project.All<Point>().OrderBy(p => p.Id), options);

    // plant-12 has 6 UI (one taken), 4 RO (one taken) and 2 AO. 21 thermometers: 5 fit, 16 need modules: ri-8 twice for 300, where ui-16 costs 320.
    [Fact]
    public void The_cheapest_modules_are_added_with_addresses_and_places_of_their_own()
    {
        Point[] points = [.. Enumerable.Range(1, 21).Select(i => Make($"t{i:00}", PointKind.Analog, PointRole.Sensor, "°C"))];
        Project project = Plant(points);
        FitProposal proposal = Propose(project, new FitOptions(MayAdd: true));
        Assert.Equal((300, 300, true), (proposal.Price, proposal.LeastPrice, proposal.IsBest));
        Assert.Equal([("A1", "ri-8", 1), ("A2", "ri-8", 2)], proposal.Added.OrderBy(m => m.Address).Select(m => (m.Name, m.ModelId, m.Address)));
        Assert.Empty(proposal.Left);
        Assert.Equal(["UI2", "UI3", "UI4", "UI5", "UI6"], proposal.Fittings.Where(f => f.ModuleId is null).Select(f => f.Terminal));
        Project after = Accept(project, [.. proposal.Added.Select(m => Edit.Of(m, 0)), .. proposal.Fittings.Select(f => Edit.Of(f, 0))]);
        Assert.Equal(21, points.Count(p => after.Holder($"source|{p.Id}") is not null));
        Assert.Equal("2.RI8", PanelTerminals.Find(after, after.Find<Core.Hardware.Controller>(KilnRoom.Controller)!, "2.RI8")!.Value.Terminal);
        // What is wired stays when more comes.
        Assert.Empty(Propose(after, new FitOptions(MayAdd: true)).Fittings);
    }

    [Fact]
    public void Equipment_stays_together_spare_is_kept_and_what_cannot_be_is_explained()
    {
        Point[] points = [.. Enumerable.Range(1, 8).Select(i => Make($"r{i}", PointKind.Binary, PointRole.Command))];
        // Eight relays of one fan: on the three left here and a module they would be apart.
        FitProposal proposal = Propose(Plant(points), new FitOptions(MayAdd: true, Together: FitTogether.Equipment));
        // to-8 costs 140, ro-8 160; the points have no preference that outweighs a price.
        Assert.Equal(("to-8", 140), (Assert.Single(proposal.Added).ModelId, proposal.Price));
        Assert.Single(proposal.Fittings.Select(f => f.ModuleId).Distinct());
        FitProposal apart = Propose(Plant(points), new FitOptions());
        Assert.Equal((3, 5), (apart.Fittings.Count, apart.Left.Count));
        Assert.Equal("All 4 terminals of KH-C1 that could carry ‘r4’ are taken. Let modules be added, or use another controller.", apart.Left[0].Why);
        FitProposal narrow = Propose(Plant(points), new FitOptions(Together: FitTogether.Equipment));
        Assert.Equal("The 8 points of ‘Extract’ are to be on one device, and none has room for all of them. Let them be apart, or use a larger module.", narrow.Left[0].Why);
        // Nine switched points with the fan that is wired, half as many again to spare: 5 more than the three that are free need room.
        FitProposal spare = Propose(Plant(points[..3]), new FitOptions(MayAdd: true, SparePercent: 50));
        Assert.Equal((3, 0), (spare.Fittings.Count, spare.SpareLacking));
        Assert.Single(spare.Added);
        Assert.Equal(2, Propose(Plant(points[..3]), new FitOptions(SparePercent: 50)).SpareLacking);
    }

    // compact-20 has memory for 200 values and 200 000 samples.
    [Fact]
    public void Memory_is_one_rule_for_refusals_findings_and_fitting()
    {
        Point[] points = [.. Enumerable.Range(1, 200).Select(i => Make($"v{i}", PointKind.Analog, PointRole.Value, "%"))];
        Project project = Accept(Project(), points);
        // The kiln room's limit is the first value; 199 more fit.
        var controller = project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!;
        FitProposal proposal = Fit.Propose(project, controller, points);
        Assert.Equal((199, 1), (proposal.Fittings.Count, proposal.Left.Count));
        project = Accept(project, [.. proposal.Fittings.Select(f => Edit.Of(f, 0))]);
        Fitting one = new() { Id = new("f-more"), Name = "value", ControllerId = KilnRoom.Controller, PointId = new("v200"), Terminal = "value", Signal = Signal.Memory };
        Refuses(project, one, "terminal", "KH-C1 has memory for 200 values and would have 201. Put some on another controller.");

        Core.Trends.TrendLog Log(int n) => new() { Id = new($"t{n}"), Name = $"t{n}", PointId = new($"v{n}"), BufferSize = 100_000 };
        project = Accept(project, Log(1), Log(2));
        Refuses(project, Log(3), "bufferSize", "KH-C1 has memory for 200 000 trend samples and its logs ask for 300 000. Make buffers smaller, or log elsewhere.");
        // What an older version let in is found.
        Project over = Core.Projects.Project.Load(9, project.Records.Append(Log(3)).Append(one).Select(r => new Entry(r, 9)));
        Assert.Equal(["memory-values", "memory-samples"], Core.Findings.Checks.On(over, controller).Select(f => f.Code));
    }
}
