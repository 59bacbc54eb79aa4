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
        ControllerModel model = ControllerModel.Find("compact-20")!;
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
        Assert.Equal("All 4 terminals of KH-C1 that could carry ‘relay4’ are taken.", proposal.Left[0].Why);
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
        Refuses(On("temp", "BI1", Signal.DryContact), "BI1 carries dry contact; ‘temp’ is analog and it needs Pt1000 or 0–10 V or 4–20 mA.");
        Refuses(On("valve", "RO2", Signal.Relay), "RO2 carries relay; ‘valve’ is analog and it needs 0–10 V.");
        Refuses(On("temp", "UI2", Signal.DryContact), "UI2 cannot carry dry contact for ‘temp’; it can carry Pt1000, 0–10 V, 4–20 mA.");
        Refuses(On("temp", "UI9", Signal.Pt1000), "KH-C1 has no terminal ‘UI9’. It has UI1–UI8, BI1–BI4, RO1–RO4, AO1–AO4.");
        Refuses(On("temp", "value", Signal.Memory), "‘temp’ is a sensor; it needs a terminal that measures, not a value in memory.");
        Refuses(On("temp", "UI2", Signal.Volts) with { Low = 5, High = 5 }, "The range of UI2 goes from 5 to 5; both ends must differ.");
    }

    // Four inputs for volts are listed before four that also take resistance: a humidity must not be left out for four thermometers.
    [Fact]
    public void Points_move_over_so_that_as_many_as_can_find_a_terminal()
    {
        Point[] points = [.. Enumerable.Range(1, 4).Select(i => Make($"rh{i}", PointKind.Analog, PointRole.Sensor, "%RH")), .. Enumerable.Range(1, 4).Select(i => Make($"temp{i}", PointKind.Analog, PointRole.Sensor, "°C"))];
        foreach (Point[] order in new[] { points, [.. points.Reverse()] })
        {
            var model = new ControllerModel("two-kinds", "Two kinds of inputs", [new("UV", "Voltage inputs", 4, Direction.In, [Signal.Volts, Signal.Milliamps]), new("UR", "Resistance inputs", 4, Direction.In, [Signal.Volts, Signal.Pt1000])], 10, 1000);
            string?[] terminals = Fit.Match(model, new HashSet<string>(), order);
            Assert.Equal(8, terminals.Distinct().Count());
            Assert.All(order.Zip(terminals), p => Assert.StartsWith(p.First.Unit == "°C" ? "UR" : "UV", p.Second));
        }
    }

    /// <summary>On random models as many points are placed as the largest matching has, found here by trying all ways.</summary>
    [Fact]
    public void The_number_placed_is_the_most_there_can_be()
    {
        var random = new Random(5);
        Signal[] all = [Signal.Pt1000, Signal.Volts, Signal.Milliamps, Signal.DryContact];
        for (int round = 0; round < 200; round++)
        {
            TerminalGroup[] groups = [.. Enumerable.Range(0, random.Next(1, 5)).Select(g => new TerminalGroup($"T{(char)('A' + g)}", "t", random.Next(1, 3), Direction.In, [.. all.Where(_ => random.Next(2) == 0).DefaultIfEmpty(Signal.Volts)]))];
            var model = new ControllerModel("random", "r", groups, 10, 1000);
            Point[] points = [.. Enumerable.Range(0, random.Next(1, 7)).Select(i => random.Next(3) switch { 0 => Make($"p{i}", PointKind.Binary, PointRole.Sensor), 1 => Make($"p{i}", PointKind.Analog, PointRole.Sensor, "°C"), _ => Make($"p{i}", PointKind.Analog, PointRole.Sensor, "ppm") })];
            var placed = Fit.Match(model, new HashSet<string>(), points).OfType<string>().ToList();
            Assert.Equal(Most(0, []), placed.Count);
            Assert.Equal(placed.Count, placed.Distinct().Count());

            int Most(int point, HashSet<string> taken)
            {
                if (point == points.Length) return 0;
                int best = Most(point + 1, taken);
                foreach (var (terminal, group) in model.Terminals())
                {
                    if (taken.Contains(terminal) || !Fitting.SignalsFor(points[point]).Intersect(group.Signals).Any()) continue;
                    best = Math.Max(best, 1 + Most(point + 1, [.. taken, terminal]));
                }
                return best;
            }
        }
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
