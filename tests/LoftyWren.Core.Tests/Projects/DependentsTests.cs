using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Projects;

/// <summary>Who depends on what, and what becomes of them when it goes.</summary>
public class DependentsTests
{
    private static readonly RecordId Other = new("other-temp"), Trend = new("fan-trend");

    private static Project House() => Accept(Project(),
        new Point { Id = Other, Name = "Shelf temperature", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
        new TrendLog { Id = Trend, Name = "Extract fan", PointId = FanCommand });

    // The room's temperature is read by the sequence, which commands the fan, which has a trend.
    [Fact]
    public void What_depends_through_others_is_told_with_the_way_there()
    {
        var all = Dependents.Of(House(), Temperature);
        Assert.Equal([("f1", "of", 1), (KilnRoom.Sequence.Value, "reads", 1), (FanCommand.Value, "commands", 2), ("f2", "of", 3), (Trend.Value, "of", 3)], all.Select(d => (d.Record.Id.Value, d.As, d.Steps)).OrderBy(d => d.Steps).ThenBy(d => d.Item1));
        Assert.Equal(FanCommand, all.First(d => d.Record.Id == Trend).Through.Id);
        // Who commands the fan is asked for at the fan itself; further on it does not hang on the fan's value.
        Assert.Contains(Dependents.Of(House(), FanCommand), d => d.Record.Id == Hours && d.As == "drives");
        Assert.DoesNotContain(all, d => d.Record.Id == Hours);
    }

    /// <summary>On any project the walk ends, names nothing twice and nothing that does not lead back to the beginning.</summary>
    [Fact]
    public void Every_dependent_leads_back_to_where_it_began()
    {
        Project project = House();
        foreach (ProjectRecord record in project.Records)
        {
            var all = Dependents.Of(project, record.Id);
            Assert.Equal(all.Count, all.Select(d => d.Record.Id).Distinct().Count());
            var steps = all.ToDictionary(d => d.Record.Id, d => d.Steps);
            Assert.All(all, d => Assert.Equal(d.Steps - 1, d.Through.Id == record.Id ? 0 : steps[d.Through.Id]));
            Assert.DoesNotContain(all, d => d.Record.Id == record.Id);
            Assert.Equal(Math.Min(2, all.Count), Dependents.Of(project, record.Id, 2).Count);
        }
    }

    [Fact]
    public void Another_record_takes_the_place_of_what_goes()
    {
        Project project = House();
        Removal removal = Removal.Of(project, [Temperature], [new RemovalChoice(KilnRoom.Sequence, Temperature, Successor.Another, Other)]);
        Project after = Accept(project, [.. removal.Edits]);
        Assert.Equal(new PointSource(Other), after.Find<Sequence>(KilnRoom.Sequence)!.Blocks[0].Inputs["measured"]);
        Assert.Null(after.Find(Temperature));
        // What would belong to it stays with another: the terminal with its wires.
        Project moved = Accept(project, [.. Removal.Of(project, [Temperature], [new RemovalChoice(new("f1"), Temperature, Successor.Another, Other)]).Edits]);
        Assert.Equal("UI1", moved.BindingOf(Other)!.Where);
    }

    // The limit is 29 °C by its fallback; as a fixed value it keeps its unit, and the sequence still compiles.
    [Fact]
    public void A_fixed_value_takes_the_place_of_what_is_read()
    {
        Project project = House();
        Removal removal = Removal.Of(project, [Limit], [new RemovalChoice(KilnRoom.Sequence, Limit, Successor.Constant, Value: 29)]);
        Project after = Accept(project, [.. removal.Edits]);
        Assert.Equal(new ConstantSource(29, "°C"), after.Find<Sequence>(KilnRoom.Sequence)!.Blocks[0].Inputs["limit"]);
        Assert.Equal(["f3", "high-limit"], removal.Gone.Select(r => r.Id.Value).Order());
        var engine = new Core.Controllers.ControllerEngine(Core.Images.ControllerImage.Build(after, after.Find<Core.Hardware.Controller>(KilnRoom.Controller)!));
        engine.ScanAt(1000, 30);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
    }

    [Fact]
    public void What_uses_it_goes_too_and_a_choice_that_cannot_be_is_told()
    {
        Project project = House();
        Removal removal = Removal.Of(project, [Temperature], [new RemovalChoice(KilnRoom.Sequence, Temperature, Successor.GoesToo)]);
        Assert.Contains(KilnRoom.Sequence, removal.Gone.Select(r => r.Id));
        Assert.Null(Accept(project, [.. removal.Edits]).Find(KilnRoom.Sequence));
        Assert.Equal("Choose what takes the place of ‘Room temperature’ in ‘Kiln room extract’.", Removal.Refuse(project, [new RemovalChoice(KilnRoom.Sequence, Temperature, Successor.Another)]));
        Assert.Equal("Type the value that takes the place of ‘Room temperature’ in ‘Kiln room extract’.", Removal.Refuse(project, [new RemovalChoice(KilnRoom.Sequence, Temperature, Successor.Constant)]));
        Assert.Equal("‘Room temperature’ cannot take its own place in ‘Kiln room extract’. Choose another.", Removal.Refuse(project, [new RemovalChoice(KilnRoom.Sequence, Temperature, Successor.Another, Temperature)]));
        Assert.Null(Removal.Refuse(project, [new RemovalChoice(KilnRoom.Sequence, Temperature, Successor.Usual)]));
    }

    /// <summary>Whatever is chosen, nothing that stays refers to what has gone, and no record is lost that was not named.</summary>
    [Fact]
    public void Whatever_is_chosen_nothing_refers_to_what_has_gone()
    {
        Project project = House();
        var random = new Random(11);
        Successor[] all = Enum.GetValues<Successor>();
        for (int round = 0; round < 300; round++)
        {
            ProjectRecord any = project.Records.ElementAt(random.Next(project.Count));
            RemovalChoice[] choices = [.. project.Referrers(any.Id).Select(r => new RemovalChoice(r.Id, any.Id, all[random.Next(all.Length)], project.Records.ElementAt(random.Next(project.Count)).Id, 20))];
            Removal removal = Removal.Of(project, [any.Id], choices);
            var gone = removal.Gone.Select(r => r.Id).ToHashSet();
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(removal.Edits, "engineer", 0));
            // What cannot stand is refused whole; what is done leaves no loose end.
            if (!outcome.Accepted)
            {
                Assert.NotEmpty(outcome.Refusals);
                continue;
            }
            Assert.All(outcome.After!.Records, r => Assert.DoesNotContain(r.References(), x => gone.Contains(x.To)));
            Assert.Equal(project.Count - gone.Count, outcome.After!.Count);
        }
    }
}
