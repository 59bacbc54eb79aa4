using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Hardware;

/// <summary>A room unit with an adjuster is replaced by a plain sensor: one change, and nothing is left that refers to what has gone.</summary>
public class DeviceReplacementTests
{
    private static readonly RecordId Adjuster = new("adjuster");

    // The adjuster hangs on UI2, has a trend, and gives the limit at which the kiln room's fan runs.
    private static Project House()
    {
        Project project = Accept(Project(), new Point { Id = Adjuster, Name = "Adjuster", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C", Low = 15, High = 35 });
        project = Accept(project, Fit.Make(project, project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!, project.Find<Point>(Adjuster)!, "UI2")! with { Signal = Signal.Volts }, new TrendLog { Id = new("adj-trend"), Name = "Adjuster", PointId = Adjuster });
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        return Accept(project, Edit.Of(sequence with { Blocks = [sequence.Blocks[0] with { Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(Temperature), ["limit"] = new PointSource(Adjuster) } }] }, project.FindEntry(KilnRoom.Sequence)!.Revision));
    }

    private static (DeviceReplacement? Replacement, string? Refused) Replace(Project project, NewWiring comes, RecordId[] goes, params RemovalChoice[] choices) => DeviceReplacement.Of(project, project.Find<Point>(Temperature)!, comes, goes, choices);

    [Fact]
    public void An_adjuster_goes_and_its_users_get_a_fixed_value()
    {
        Project project = House();
        Assert.Equal([Adjuster], DeviceReplacement.Beside(project, project.Find<Point>(Temperature)!).Select(p => p.Id));
        var (replacement, refused) = Replace(project, new NewWiring(Signal.Ni1000, ToleranceClass: "standard"), [Adjuster], new RemovalChoice(KilnRoom.Sequence, Adjuster, Successor.Constant, Value: 29));
        Assert.Null(refused);
        Project after = Accept(project, [.. replacement!.EditsIn(project)]);
        Assert.Equal((Signal.Ni1000, "standard", "UI1"), (((Fitting)after.BindingOf(Temperature)!).Signal, ((Fitting)after.BindingOf(Temperature)!).ToleranceClass, after.BindingOf(Temperature)!.Where));
        Assert.Equal(new ConstantSource(29, "°C"), after.Find<Sequence>(KilnRoom.Sequence)!.Blocks[0].Inputs["limit"]);
        // The adjuster, its terminal and its trend are gone, and no record refers to any of them.
        RecordId[] gone = [Adjuster, project.BindingOf(Adjuster)!.Id, new("adj-trend")];
        Assert.All(gone, id => Assert.Null(after.Find(id)));
        Assert.All(after.Records, r => Assert.DoesNotContain(r.References(), x => gone.Contains(x.To)));
        Assert.Empty(Dependents.Of(after, Adjuster));
        // It runs: over 29 °C by the new element's curve.
        var engine = Engine(after);
        engine.RawInputs[engine.IndexOf("UI1")] = Curve.Ni1000.RawOf(30);
        engine.Scan(1000);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
        // One change, taken back whole.
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(replacement.EditsIn(project), "engineer", 0));
        Project back = Accept(outcome.After!, [.. Changes.Inverse(outcome.After!, outcome.Entry!).Edits]);
        Assert.Equal(project.Records.OrderBy(r => r.Id).Select(RecordJson.Write), back.Records.OrderBy(r => r.Id).Select(RecordJson.Write));
    }

    [Fact]
    public void Another_terminal_and_what_cannot_be_are_told()
    {
        Project project = House();
        var (moved, _) = Replace(project, new NewWiring(Signal.Volts, "UI3", Low: -20, High: 60), []);
        Assert.Equal("UI3", Accept(project, [.. moved!.EditsIn(project)]).BindingOf(Temperature)!.Where);
        Assert.StartsWith("KH-C1 has no terminal ‘UI9’.", Replace(project, new NewWiring(Signal.Pt1000, "UI9"), []).Refused, StringComparison.Ordinal);
        Assert.Equal("‘Room temperature’ cannot go and stay. To take it away altogether, remove it.", Replace(project, new NewWiring(Signal.Pt1000), [Temperature]).Refused);
        Assert.Contains("Type the value that takes the place of ‘Adjuster’", Replace(project, new NewWiring(Signal.Pt1000), [Adjuster], new RemovalChoice(KilnRoom.Sequence, Adjuster, Successor.Constant)).Refused, StringComparison.Ordinal);
        var (setpoint, why) = DeviceReplacement.Of(project, project.Find<Point>(Limit)!, new NewWiring(Signal.Pt1000), [], []);
        Assert.Null(setpoint);
        Assert.Contains("is on no terminal", why, StringComparison.Ordinal);
        // A terminal that is taken, or cannot carry it, is refused by the change itself.
        var (taken, _) = Replace(project, new NewWiring(Signal.Pt1000, "UI2"), []);
        Assert.Contains("UI2 is taken by", Refused(project, [.. taken!.EditsIn(project)])[0].Sentence, StringComparison.Ordinal);
        // The correction of the old sensor goes with it; the same again changes nothing.
        Fitting fitting = (Fitting)project.BindingOf(Temperature)!;
        Assert.Empty(Replace(project, new NewWiring(fitting.Signal), []).Replacement!.EditsIn(project));
        project = Accept(project, Edit.Of(fitting with { Correction = 0.4 }, project.FindEntry(fitting.Id)!.Revision));
        Assert.Equal(0, Replace(project, new NewWiring(fitting.Signal), []).Replacement!.After.Correction);
    }
}
