using LoftyWren.Core.Places;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.PointLists;

public class ListImportTests
{
    private static readonly Project Empty = Accept(Core.Projects.Project.Empty, new Place { Id = Site, Name = "Saltmarsh Pottery", Kind = PlaceKind.Site, TimeZone = "Europe/London" });

    private static Sheet List(params string[] rows) => new("Points", [.. rows.Select(r => r.Split(','))]);

    private static ImportPlan Plan(Project project, Sheet sheet, Func<ListMapping, ListMapping>? change = null)
    {
        ListMapping mapping = ListMapping.Propose(sheet);
        return ListImport.Plan(project, sheet, change is null ? mapping : change(mapping));
    }

    private static Project Import(Project project, Sheet sheet) => Changes.Apply(project, new ChangeSet(Plan(project, sheet).Edits, "engineer", 0)).After!;

    private static readonly Sheet Good = List(
        "Points of the pottery,,,,,,,,",
        "Building,Storey,Room,Area m2,Equipment,Point name,Type,Units,Min",
        "Kiln House,First floor,Kiln room,60,,Room temperature,AI,degC,-20",
        ",,,,Extract,Extract fan,DO,,",
        ",,Drying room,42,,Humidity,AI,%rh,0",
        ",Ground floor,Shop,55,,,,,");

    [Fact]
    public void Columns_are_proposed_from_headers_and_contents()
    {
        ListMapping mapping = ListMapping.Propose(Good);
        Assert.Equal(1, mapping.HeaderRow);
        Assert.Equal(["building", "floor", "room", "area", "equipment", "point", "type", "unit", "low"], mapping.Columns);
        Assert.Equal(["point", "type", "unit"], ListMapping.Propose(List("Point,x,y", "Fan,DO,", "Temp,AI,°C")).Columns);
    }

    [Fact]
    public void A_list_becomes_places_equipment_and_points_with_blanks_read_from_above()
    {
        ImportPlan plan = Plan(Empty, Good);
        Assert.Empty(plan.BadCells);
        Assert.Equal(4, plan.Count(RowVerdict.Adds));
        Project project = Import(Empty, Good);
        Point fan = project.All<Point>().Single(p => p.Name == "Extract fan");
        Assert.Equal("Kiln House › First floor › Kiln room › Extract", project.PathOf(fan.Id));
        Assert.Equal((PointKind.Binary, PointRole.Command, 0.0), (fan.Kind, fan.Role, fan.Fallback));
        Point humidity = project.All<Point>().Single(p => p.Name == "Humidity");
        Assert.Equal(("%RH", 0.0, "Kiln House › First floor › Drying room"), (humidity.Unit, humidity.Low, project.PathOf(humidity.Id)));
        Assert.Equal(55, project.All<Place>().Single(p => p.Name == "Shop").AreaSquareMetres);
        Assert.Equal("Kiln House › Ground floor", project.PathOf(project.All<Place>().Single(p => p.Name == "Shop").Id));
    }

    [Fact]
    public void The_same_list_twice_changes_nothing()
    {
        Project once = Import(Empty, Good);
        ImportPlan again = Plan(once, Good);
        Assert.Empty(again.Edits);
        Assert.All(again.Lines, l => Assert.Equal(RowVerdict.Same, l.Verdict));
    }

    [Fact]
    public void A_filled_cell_changes_and_an_empty_one_leaves_alone()
    {
        Project once = Import(Empty, Good);
        ImportPlan plan = Plan(once, List("Building,Floor,Room,Point,Unit,Low,High", "kiln house,first floor,KILN ROOM,room temperature,,-10,"));
        ImportLine line = Assert.Single(plan.Lines);
        Assert.Equal("changes point ‘Room temperature’: low -20 → -10", line.Words);
        Point point = (Point)Assert.Single(plan.Edits).Put!;
        Assert.Equal(("°C", -10.0, (double?)null), (point.Unit, point.Low!.Value, point.High));
    }

    [Fact]
    public void Each_bad_cell_is_named_by_sheet_row_and_column_and_the_good_rows_stand()
    {
        Sheet sheet = List("Building,Floor,Room,Area,Point,Type,Unit,Low", "Barn,Loft,Study,20,Temperature,AI,°C,0", "Barn,Loft,Attic,big,Temperature,XX,parsec,warm", "Barn,Loft,Store,20,Humidity,AI,%RH,10");
        ImportPlan plan = Plan(Empty, sheet);
        Assert.Equal([("Points", 3, "D"), ("Points", 3, "F"), ("Points", 3, "G"), ("Points", 3, "H")], plan.BadCells.Select(b => (b.Sheet, b.Row, b.Column)));
        Assert.Equal("‘big’ is not a number. Write digits, such as 21.5.", plan.BadCells[0].Sentence);
        Assert.Contains("Use AI, AO", plan.BadCells[1].Sentence, StringComparison.Ordinal);
        Assert.Contains("is not a known unit", plan.BadCells[2].Sentence, StringComparison.Ordinal);
        Assert.Equal((2, 1), (plan.Count(RowVerdict.Adds), plan.Count(RowVerdict.Bad)));
        Project project = Changes.Apply(Empty, new ChangeSet(plan.Edits, "engineer", 0)).After!;
        Assert.Equal(["Store", "Study"], project.All<Place>().Where(p => p.Kind == PlaceKind.Room).Select(p => p.Name).Order());
    }

    [Fact]
    public void Nothing_of_a_bad_row_comes_in_through_a_later_row_on_the_same_record()
    {
        Project once = Import(Empty, Good);
        // The first row would change the kiln room's area, but its type cannot be read; the second is good and names the same room.
        ImportPlan plan = Plan(once, List("Building,Floor,Room,Area,Point,Type", "Kiln House,First floor,Kiln room,99,Pressure,XX", "Kiln House,First floor,Kiln room,,Light,DO", "Kiln House,First floor,New room,12,Light,XX", "Kiln House,First floor,New room,,Light,DO"));
        Assert.Equal((2, 2), (plan.Count(RowVerdict.Bad), plan.Count(RowVerdict.Adds)));
        Project after = Changes.Apply(once, new ChangeSet(plan.Edits, "engineer", 0)).After!;
        Assert.Equal(60, after.All<Place>().Single(p => p.Name == "Kiln room").AreaSquareMetres);
        Assert.Null(after.All<Place>().Single(p => p.Name == "New room").AreaSquareMetres);
        Assert.DoesNotContain(after.All<Point>(), p => p.Name == "Pressure");
    }

    [Fact]
    public void A_row_that_names_nothing_is_bad_wherever_it_stands()
    {
        ImportPlan plan = Plan(Empty, List("Building,Floor,Room,Point,Unit", "Barn,Loft,Study,Heat,parsec", ",,,,°C"), m => m with { BlankIsAbove = false });
        Assert.Equal([(2, "E"), (3, "A")], plan.BadCells.Select(b => (b.Row, b.Column)));
        Assert.Equal("This row names no place, no equipment and no point.", plan.BadCells[1].Sentence);
    }

    [Theory]
    [InlineData("21,5", 21.5)]
    [InlineData("-0,125x", null)]
    [InlineData("0,125", 0.125)]
    [InlineData("1,234", null)]
    [InlineData("12,000", null)]
    [InlineData("1,234.5", null)]
    [InlineData("1234.5", 1234.5)]
    public void A_number_that_can_be_read_in_two_ways_is_not_guessed_at(string text, double? value)
    {
        ImportPlan plan = ListImport.Plan(Empty, new Sheet("s", [["Building", "Floor", "Room", "Point", "Low"], ["Barn", "Loft", "Study", "Heat", text]]), new ListMapping { Columns = ["building", "floor", "room", "point", "low"] });
        if (value is { } number) Assert.Equal(number, plan.Edits.Select(e => e.Put).OfType<Point>().Single().Low);
        else Assert.Equal("E", Assert.Single(plan.BadCells).Column);
    }

    [Fact]
    public void A_level_is_a_whole_number() =>
        Assert.Contains("whole number", Assert.Single(Plan(Empty, List("Building,Floor,Level", "Barn,Loft,1.5")).BadCells).Sentence, StringComparison.Ordinal);

    [Fact]
    public void What_only_the_project_refuses_is_named_at_its_row_too()
    {
        ImportPlan plan = Plan(Empty, List("Building,Floor,Room,Point,Type,Low,High", "Barn,Loft,Study,One,AI,0,50", "Barn,Loft,Study,Two,AI,50,0"));
        BadCell bad = Assert.Single(plan.BadCells);
        Assert.Equal((3, "F", "The low limit 50 of ‘Two’ is not below its high limit 0."), (bad.Row, bad.Column, bad.Sentence));
        Assert.Equal(1, plan.Count(RowVerdict.Adds));
        Assert.Contains(plan.Edits, e => e.Put is Point { Name: "One" });
    }

    [Fact]
    public void Words_of_the_list_are_told_what_they_stand_for()
    {
        Sheet sheet = List("Building,Floor,Room,Equipment,Equipment kind,Point,Type,Unit", "Barn,Loft,Study,FCU 1,Ventilo,Temperature,Fühler,Grad");
        ImportPlan plan = Plan(Empty, sheet);
        Assert.Equal(1, plan.Count(RowVerdict.Bad));
        Assert.Contains("is not a kind of equipment", plan.BadCells[0].Sentence, StringComparison.Ordinal);
        static Dictionary<string, string> One(string theirs, string ours) => new() { [theirs] = ours };
        plan = Plan(Empty, sheet, m => m with { Words = new Dictionary<string, IReadOnlyDictionary<string, string>> { ["equipmentKind"] = One("Ventilo", "fan-coil"), ["type"] = One("Fühler", "AI"), ["unit"] = One("Grad", "°C") } });
        Assert.Empty(plan.BadCells);
        Assert.Contains(plan.Edits, e => e.Put is Equipment { Kind: "fan-coil" });
    }

    [Fact]
    public void A_room_without_a_floor_says_so_and_a_building_may_be_named_for_the_whole_list()
    {
        Assert.Contains("on which floor", Plan(Empty, List("Building,Room", "Barn,Study")).BadCells.Single().Sentence, StringComparison.Ordinal);
        Assert.Contains("of which building", Plan(Empty, List("Floor,Room", "Loft,Study")).BadCells.Single().Sentence, StringComparison.Ordinal);
        Assert.Empty(Plan(Empty, List("Floor,Room", "Loft,Study"), m => m with { Building = "Barn" }).BadCells);
    }

    [Fact]
    public void Tags_states_and_fallbacks_are_read()
    {
        ImportPlan plan = Plan(Empty, List("Building,Floor,Room,Point,Type,States,Fallback,Tags", "Barn,Loft,Study,Lamp,DO,dark / lit,lit,critical watts:60W place:\"by the door\""));
        Point lamp = plan.Edits.Select(e => e.Put).OfType<Point>().Single();
        Assert.Equal(["dark", "lit"], lamp.StateTexts);
        Assert.Equal(1, lamp.Fallback);
        Assert.Equal(new Dictionary<string, string> { ["critical"] = "M", ["place"] = "\"by the door\"", ["watts"] = "60W" }, lamp.Tags);
    }

    [Fact]
    public void What_is_exported_is_read_back_as_the_same_list()
    {
        Project house = Accept(KilnRoom.Project(), KilnRoom.Project().Find<Point>(Limit)! with { Low = -5.25, Description = "=set by the potter", Tags = new Dictionary<string, string> { ["critical"] = "M" } });
        Sheet list = ListExport.Of(house, Site);
        ImportPlan plan = ListImport.Plan(Empty, list, ListExport.Mapping);
        Assert.Empty(plan.BadCells);
        Project copy = Changes.Apply(Empty, new ChangeSet(plan.Edits, "engineer", 0)).After!;
        Assert.Equal(list.Rows, ListExport.Of(copy, Site).Rows);
        Assert.Empty(ListImport.Plan(house, list, ListExport.Mapping).Edits);
        Assert.Equal(list.Rows[0], ListExport.Of(Core.Projects.Project.Empty, Site).Rows[0]);
    }

    [Fact]
    public void Columns_have_letters() => Assert.Equal(["A", "Z", "AA", "AZ", "BA"], new[] { 0, 25, 26, 51, 52 }.Select(Sheet.Letters));

    private static Sheet Whole(params string[] rows) => new("List", [.. ((string[])["Building,Floor,Level,Room,Equipment,Point,Kind,Role,Unit,Fallback,Compared with,Position,Outline,Id", .. rows]).Select(r => r.Split(','))]);

    private static Project Taken(Project before, Sheet sheet)
    {
        ImportPlan plan = ListImport.Plan(before, sheet, ListMapping.Propose(sheet));
        Assert.Empty(plan.BadCells);
        return plan.Edits.Count == 0 ? before : Changes.Apply(before, new ChangeSet(plan.Edits, "engineer", 0)).After!;
    }

    [Fact]
    public void A_whole_list_makes_the_very_same_places_equipment_and_points()
    {
        Project house = Changes.Apply(KilnRoom.Project(), new ChangeSet([
            Edit.Of(KilnRoom.Project().Find<Place>(KilnRoom.Room)! with { Outline = [new(0, 0), new(7.5, 0), new(7.5, 8), new(0, 8)], Order = 3, ShortName = "KR" }),
            Edit.Of(KilnRoom.Project().Find<Point>(KilnRoom.Temperature)! with { SetpointId = KilnRoom.Limit, Description = "Beside the door, north" }),
        ], "engineer", 0)).After!;
        Sheet list = ListExport.Of(house, KilnRoom.Site, whole: true);
        Project site = Changes.Apply(Core.Projects.Project.Empty, new ChangeSet([Edit.Of(house.Site!)], "engineer", 0)).After!;
        Project copy = Taken(site, list);
        Assert.Equal(house.Records.Where(r => r is Place or Equipment or Point).OrderBy(r => r.Id).Select(RecordJson.Write), copy.Records.OrderBy(r => r.Id).Select(RecordJson.Write));
        Assert.Equal(list.Rows, ListExport.Of(copy, KilnRoom.Site, whole: true).Rows);
    }

    [Fact]
    public void A_row_with_an_id_finds_its_record_again_under_another_name_and_in_another_place()
    {
        Sheet list = ListExport.Of(KilnRoom.Project(), KilnRoom.Site, whole: true);
        string[][] rows = [.. list.Rows.Select(r => (string[])r.Clone())];
        int point = list.Rows[0].ToList().IndexOf("Point"), room = list.Rows[0].ToList().IndexOf("Room");
        foreach (string[] row in rows.Skip(1))
        {
            if (row[room] == "Kiln room") row[room] = "Firing room";
            if (row[^1] == KilnRoom.Limit.Value) row[point] = "Highest temperature";
        }
        ImportPlan plan = ListImport.Plan(KilnRoom.Project(), new Sheet("List", rows), ListMapping.Propose(list));
        Assert.Empty(plan.BadCells);
        Assert.Equal([(KilnRoom.Limit.Value, "Highest temperature"), (KilnRoom.Room.Value, "Firing room")], plan.Edits.Select(e => (e.Put!.Id.Value, e.Put.Name)).Order());
    }

    [Theory]
    [InlineData("House,Ground,0,Hall,,,,,,,,,,No id!", "N2", "‘No id!’ is no id")]
    [InlineData("House,Ground,0,Hall,,,,,,,,,,room-temp", "N2", "belongs to the point ‘Room temperature’")]
    [InlineData("House,Ground,0,Hall,,,,,,,,,0;0 4;0,", "M2", "‘0;0’ is no corner")]
    [InlineData("House,Ground,0,Hall,,,,,,,,x,,", "L2", "is not a number")]
    [InlineData("Kiln House,First floor,1,Kiln room,,Sensor 2,analog,sensor,°C,,Nowhere,,,", "K2", "no setpoint ‘Nowhere’")]
    public void What_an_id_an_outline_or_a_setpoint_cannot_be_is_said_at_its_cell(string row, string cell, string sentence)
    {
        Sheet sheet = Whole(row);
        BadCell bad = Assert.Single(ListImport.Plan(KilnRoom.Project(), sheet, ListMapping.Propose(sheet)).BadCells);
        Assert.Equal(cell, $"{bad.Column}{bad.Row}");
        Assert.Contains(sentence, bad.Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_setpoint_that_stands_further_down_or_in_other_equipment_of_the_room_is_found()
    {
        Project project = Taken(KilnRoom.Project(), Whole("Kiln House,First floor,1,Kiln room,,Floor temperature,analog,sensor,°C,,Floor setpoint,,,ft", "Kiln House,First floor,1,Kiln room,Floor heating,Floor setpoint,analog,setpoint,°C,21,,,,fs"));
        Assert.Equal(new RecordId("fs"), project.Find<Point>(new RecordId("ft"))!.SetpointId);
    }

    [Theory]
    [InlineData("Barn,,,Boiler,gadget,,,,,", "E2", "‘gadget’ is not a kind of equipment. Use one of: ")]
    [InlineData("Barn,Loft,Study,,,Temp,ZZ,,,", "G2", "‘ZZ’ is not a type of point. Use AI, AO, AV, DI, DO, BV, MI, MO, MV or SP; or say below what it stands for.")]
    [InlineData("Barn,Loft,Study,,,Temp,AI,furlong,,", "H2", "‘furlong’ is not a known unit. Use one of: ")]
    [InlineData("Barn,Loft,Study,,,Temp,,,tall,", "I2", "‘tall’ is not a kind of point. Use analog, binary or multistate.")]
    [InlineData("Barn,Loft,Study,,,Temp,,,,watcher", "J2", "‘watcher’ is not a role. Use sensor, command, setpoint or value.")]
    [InlineData(",Loft,,,,,,,,", "B2", "‘Loft’ is a floor, but of which building? Fill the building's column, or name one building for the whole list.")]
    [InlineData(",,,Boiler,boiler,,,,,", "D2", "‘Boiler’ is equipment, but where? Fill a column of its place.")]
    [InlineData(",,,,,Temp,AI,,,", "F2", "‘Temp’ is a point, but of what? Fill a column of its place or its equipment.")]
    public void What_a_cell_cannot_be_is_said_at_the_cell_with_what_would_be_right(string row, string cell, string sentence)
    {
        ImportPlan plan = Plan(Empty, List("Building,Floor,Room,Equipment,Equipment kind,Point name,Type,Units,Point kind,Role", row));
        BadCell bad = Assert.Single(plan.BadCells);
        Assert.Equal(("Points", cell), (bad.Sheet, $"{bad.Column}{bad.Row}"));
        Assert.StartsWith(sentence, bad.Sentence, StringComparison.Ordinal);
        Assert.Empty(plan.Edits);
    }

    [Fact]
    public void A_list_without_a_site_and_a_template_without_equipment_say_what_is_missing()
    {
        Assert.Equal("The project has no site yet. Name the site first.", Assert.Single(Plan(Core.Projects.Project.Empty, List("Building", "Barn")).BadCells).Sentence);
        Assert.Equal("A template needs the name of the equipment to be placed. Fill the equipment's column.", Assert.Single(Plan(Empty, List("Building,Template", "Barn,Kiln")).BadCells).Sentence);
    }

    [Theory]
    [InlineData("Values", "values")]
    [InlineData("Template values", "values")]
    [InlineData("Template", "template")]
    [InlineData("Point kind", "kind")]
    [InlineData("Compared with", "comparedWith")]
    [InlineData("Storey", "floor")]
    [InlineData("Teapot", "none")]
    public void A_header_says_what_its_column_says(string header, string field) =>
        Assert.Equal(field, ListMapping.Propose(List($"Building,Room,{header}", "Barn,Study,xyz")).Columns.ElementAtOrDefault(2));

    [Fact]
    public void Large_counts_read_as_people_write_them()
    {
        ImportPlan plan = Plan(Empty, List([.. Enumerable.Range(0, 1200).Select(i => $"Barn,Loft,Bay {i}").Prepend("Building,Floor,Room")]));
        Assert.Equal(["adds 1 building", "adds 1 floor", "adds 1,200 rooms"], plan.Counts.Order(StringComparer.Ordinal));
    }
}
