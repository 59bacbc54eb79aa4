using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Places;

public class PlaceTests
{
    private static readonly Project House = KilnRoom.Project();
    private static readonly Place Kiln = House.Find<Place>(Room)!;

    [Fact]
    public void A_site_stands_alone_in_a_time_zone_and_there_is_one()
    {
        Place site = House.Site!;
        Refuses(House, site with { In = Building }, "in", "A site is not inside anything.");
        Refuses(House, site with { TimeZone = "Europe/Atlantis" }, "timeZone", "‘Europe/Atlantis’ is not a time zone. Use a name such as Europe/London.");
        Refuses(House, site with { TimeZone = null }, "timeZone", "‘’ is not a time zone. Use a name such as Europe/London.");
        Refuses(House, new Place { Id = new("other"), Name = "Other", Kind = PlaceKind.Site, TimeZone = "Europe/London" }, "kind", "A project has one site, and this one has it already: ‘Saltmarsh Pottery’. Add a building to it.");
    }

    [Fact]
    public void Each_kind_of_place_belongs_in_the_next_larger()
    {
        Refuses(House, Kiln with { In = null }, "in", "A room belongs in a floor. Choose one.");
        Refuses(House, Kiln with { In = new("gone") }, "in", "A room belongs in a floor. Choose one.");
        Refuses(House, Kiln with { In = Building }, "in", "A room belongs in a floor, not in a building (‘Kiln House’).");
        Refuses(House, House.Find<Place>(Floor)! with { In = Site }, "in", "A floor belongs in a building, not in a site (‘Saltmarsh Pottery’).");
        Refuses(House, House.Find<Place>(Building)! with { In = Floor }, "in", "A building belongs in a site, not in a floor (‘First floor’).");
    }

    [Fact]
    public void Areas_short_names_and_outlines_must_be_possible()
    {
        Refuses(House, Kiln with { AreaSquareMetres = 0 }, "areaSquareMetres", "An area of 0 m² cannot be; give more than 0 and at most 1 000 000 m².");
        Refuses(House, Kiln with { ShortName = "seventeen letters" }, "shortName", "A short name has at most 16 characters.");
        Refuses(House, Kiln with { Outline = [new(0, 0), new(1, 1)] }, "outline", "An outline needs at least three corners.");
        Refuses(House, Kiln with { Outline = [.. Enumerable.Range(0, 201).Select(i => new Corner(Math.Cos(i), Math.Sin(i)))] }, "outline", "An outline has at most 200 corners.");
        Refuses(House, Kiln with { Outline = [new(0, 0), new(10_001, 0), new(0, 5)] }, "outline", "A corner lies more than 10 km from the floor's origin. Coordinates are in metres.");
        Refuses(House, Kiln with { Outline = [new(0, 0), new(4, 0), new(8, 0)] }, "outline", "This outline encloses no area. List the corners in order around the room.");
        Assert.Equal(60, Outlines.Area(Accept(House, Kiln with { Outline = [new(0, 0), new(10, 0), new(10, 6), new(0, 6)] }).Find<Place>(Room)!.Outline), 9);
    }

    [Fact]
    public void Names_are_there_short_clean_and_unique_beside_their_siblings()
    {
        Refuses(House, Kiln with { Name = " " }, "name", "This room has no name. Type one.");
        Refuses(House, Kiln with { Name = new string('x', 81) }, "name", "‘xxxxxxxxxxxxxxxxxxxxxxxx…’ is 81 characters long; a name has at most 80.");
        Refuses(House, Kiln with { Name = "Kiln\nroom" }, "name", "The name of this room holds a line break or another control character. Remove it.");
        Refuses(House, Kiln with { Name = "Kiln room " }, "name", "‘Kiln room ’ begins or ends with a space. Remove it.");
        Refuses(House, new Place { Id = new("twin"), Name = "KILN ROOM", Kind = PlaceKind.Room, In = Floor }, "name", "There is already a room called ‘Kiln room’ here. Choose another name.");
    }

    [Fact]
    public void A_change_set_must_say_something_once_about_records_that_are_there()
    {
        string Why(params Edit[] edits) => Assert.Single(Refused(House, edits)).Sentence;
        Assert.Equal("There is nothing to change.", Why());
        Assert.Equal("Each edit either puts a record or removes one.", Why(new Edit()));
        Assert.Equal("Each edit either puts a record or removes one.", Why(new Edit { Put = Kiln, Remove = Room }));
        Assert.Equal("The record kiln-room is edited twice in one change set.", Why(Edit.Of(Kiln), new Edit { Remove = Room }));
        Assert.Equal("This record is no longer in the project.", Why(new Edit { Remove = new RecordId("gone") }));
        Assert.Equal("‘Kiln room’ is a record of the sort room; it cannot become one of the sort equipment.", Why(Edit.Of(new Core.Points.Equipment { Id = Room, Name = "Kiln", Kind = "kiln", PlaceId = Floor })));
    }
}
