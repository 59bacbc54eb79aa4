using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Images;

public class ImageTests
{
    private static ControllerImage Build(Project project) => ControllerImage.Build(project, project.Find<LoftyWren.Core.Hardware.Controller>(KilnRoom.Controller)!);

    [Fact]
    public void The_same_design_gives_the_same_bytes_in_whatever_order_it_was_made()
    {
        var records = Project().Records.OrderByDescending(r => r.Id).ToArray();
        Assert.Equal(Build(Project()).ToBytes(), Build(Accept(Core.Projects.Project.Empty, records)).ToBytes());
    }

    [Fact]
    public void There_and_back_is_the_same()
    {
        byte[] bytes = Build(Project()).ToBytes();
        ControllerImage back = ControllerImage.FromBytes(bytes);
        Assert.Equal(bytes, back.ToBytes());
        Assert.Equal(HostKinds.HashOf(bytes), HostKinds.HashOf(back.ToBytes()));
        Assert.Empty(ImageComparison.Compare(back, Build(Project())));
    }

    [Fact]
    public void It_holds_what_the_controller_needs_and_no_places()
    {
        Assert.Equal(["f1", "f2", "f3", "fan-cmd", "fan-seq", "high-limit", "hours", "room-temp"], Build(Project()).Records.Select(r => r.Id.Value));
    }

    [Fact]
    public void What_belongs_to_others_does_not_change_it()
    {
        Project more = Accept(Project(), new Point { Id = new("other"), Name = "Other", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        Assert.Equal(Build(Project()).ToBytes(), Build(more).ToBytes());
    }

    [Fact]
    public void A_point_read_from_another_controller_is_remote()
    {
        Project project = Accept(Project(),
            new LoftyWren.Core.Hardware.Controller { Id = new("c2"), Name = "KH-C2", PlaceId = Room, ModelId = "compact-20", DeviceInstance = 2102 },
            new Point { Id = new("outdoor"), Name = "Outdoor temperature", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
            new Fitting { Id = new("f9"), Name = "UI1", ControllerId = new("c2"), PointId = new("outdoor"), Terminal = "UI1", Signal = Signal.Pt1000 });
        var sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        project = Accept(project, sequence with { Blocks = [.. sequence.Blocks, new Block { Id = "cold", Kind = BlockKind.Lt, Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(new("outdoor")), ["in2"] = new ConstantSource(5, "°C") } }] });
        Assert.Equal([new RemotePoint(new("outdoor"), new("c2"))], Build(project).Remote);
    }

    [Fact]
    public void A_comparison_names_records_and_fields()
    {
        ControllerImage installed = Build(Project());
        Project changed = Accept(Project(differential: 1.5), [Edit.Removing(new("f1")), Edit.Of(new Fitting { Id = new("f4"), Name = "UI2", ControllerId = KilnRoom.Controller, PointId = Temperature, Terminal = "UI2", Signal = Signal.Pt1000 })]);
        var differences = ImageComparison.Compare(installed, Build(changed));
        Assert.Contains(differences, d => d is { Kind: DifferenceKind.Removed, Noun: "terminal", Name: "UI1 · Room temperature" });
        Assert.Contains(differences, d => d is { Kind: DifferenceKind.Added, Noun: "terminal", Name: "UI2 · Room temperature" });
        RecordDifference program = differences.Single(d => d.Id == KilnRoom.Sequence);
        FieldDifference field = Assert.Single(program.Fields);
        Assert.Equal(("blocks › high › numbers › differential", "2", "1.5"), (field.Words, field.Before, field.After));
        Assert.Equal(9, ImageComparison.Compare(null, Build(Project())).Count);
    }

    [Fact]
    public void Bytes_that_are_no_image_are_refused() => Assert.ThrowsAny<System.Text.Json.JsonException>(() => ControllerImage.FromBytes("{\"controller\":"u8));
}
