using FsCheck.Xunit;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tests.Projects;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Names;

public class NamingTests
{
    private static NamingConvention Convention(params NamingRule[] rules) => NamingConvention.Empty with { Rules = rules, Abbreviations = new Dictionary<string, string> { ["temperature"] = "temp", ["extract fan"] = "EXF", ["Kiln House"] = "KH" } };

    private static Project With(NamingConvention convention, params ProjectRecord[] more) => Accept(KilnRoom.Project(), [convention, .. more]);

    private static Project Accept(Project before, params ProjectRecord[] puts)
    {
        ChangeOutcome outcome = Changes.Apply(before, new ChangeSet([.. puts.Select(p => Edit.Of(p))], "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }

    private static Departure? Check(Project project, RecordId id)
    {
        var naming = Naming.Of(project)!;
        return naming.Check(project, project.Find(id)!, NameIndex.Full(project, naming));
    }

    private static NamingRule Equipment(string pattern, NameScope unique = NameScope.Siblings) => new() { For = "equipment", Pattern = pattern, Unique = unique };

    // The expected names follow from the rule by hand: building Kiln House is shortened to KH, the kind extract fan to EXF.
    [Theory]
    [InlineData("{building}-{kind}-{nn}", "Extract", "KH-EXF-01")]
    [InlineData("{building}-{kind}-{nn}", "Extract 7", "KH-EXF-07")]
    [InlineData("{building}-{kind}-{n}", "KH-EXF-12", null)]
    [InlineData("{building}-{kind}-{nn}", "KH-EXF-120", null)]
    [InlineData("{building}-{kind}-{nnn}", "KH-EXF-12", "KH-EXF-012")]
    [InlineData("{building}-{kind}-{n}", "KH-EXF-012", "KH-EXF-12")]
    [InlineData("{room} {name}", "Extract", "Kiln room Extract")]
    [InlineData("{room} {name}", "Extract of kiln room", "Kiln room Extract of")]
    [InlineData("{room} {name}", "Kiln room extract", null)]
    [InlineData("{building} {name}", "Extract fan 1", "KH Extract fan 1")]
    [InlineData("{name}", "anything at all", null)]
    public void A_name_that_departs_is_given_the_one_it_would_have(string pattern, string name, string? proposed)
    {
        Project project = With(Convention(Equipment(pattern)), KilnRoom.Project().Find(Fan)! with { Name = name });
        Assert.Equal(proposed, Check(project, Fan)?.Proposed);
        Assert.Equal(proposed is null, Check(project, Fan) is null);
    }

    [Theory]
    [InlineData("letters digits space", "Zone CO₂ (front)", "Zone CO2 front")]
    [InlineData("letters digits - space", "Zone/CO₂ (front)", "Zone-CO2 front")]
    [InlineData("letters digits -", "Fenêtre sud/est", "Fenetre-sud-est")]
    [InlineData("letters", "Fan 2", "Fan")]
    public void What_may_not_be_in_a_name_is_written_otherwise(string letters, string name, string clean)
    {
        Assert.Equal(clean, NameLetters.Parse(letters).Clean(name));
        Assert.Null(NameLetters.Parse(letters).Wrong(clean));
    }

    [Property(MaxTest = 300)]
    public bool What_is_cleaned_holds_nothing_that_may_not_be(string? text) => NameLetters.Parse("letters digits _").Wrong(NameLetters.Parse("letters digits _").Clean(text ?? "")) is null;

    [Fact]
    public void Capitals_letters_and_length_are_each_said()
    {
        NamingRule rule = new() { For = "point", Pattern = "{name}", Case = LetterCase.Upper, Letters = "letters space", Longest = 13 };
        Project project = With(Convention(rule));
        // ROOM TEMPERATURE has 16 letters; with temp for temperature it has 9, and abbreviations are written in capitals too.
        Assert.Equal(("is not in capitals", "ROOM TEMP"), (Check(project, Temperature)!.Why, Check(project, Temperature)!.Proposed));
        Assert.Equal("is 16 characters long; at most 13", Check(Accept(project, project.Find(Temperature)! with { Name = "ROOM TEMPERATURE" }), Temperature)!.Why);
        Assert.Equal("holds ‘-’, which is not among letters space", Check(Accept(project, project.Find(Temperature)! with { Name = "ROOM-TEMP" }), Temperature)!.Why);
        Assert.Null(Check(Accept(project, project.Find(Temperature)! with { Name = "LONGISH WORDS HERE" }), Temperature)!.Proposed);
    }

    [Fact]
    public void A_name_may_stand_once_in_its_scope_and_numbers_go_on()
    {
        Equipment Another(string id, RecordId room, string name) => new() { Id = new(id), Name = name, Kind = "extract fan", PlaceId = room };
        Place second = new() { Id = new("second"), Name = "Drying room", Kind = PlaceKind.Room, In = Floor };
        Project project = With(Convention(Equipment("{kind}-{n}", NameScope.Building)), second, KilnRoom.Project().Find(Fan)! with { Name = "EXF-1" }, Another("b", second.Id, "EXF-1"), Another("c", second.Id, "Fan"));
        Assert.Equal("is also the name of equipment Kiln House › First floor › Drying room › EXF-1", Check(project, Fan)!.Why);
        Assert.Equal("EXF-2", Check(project, Fan)!.Proposed);
        Project mended = Accept(project, [.. Naming.Fix(project, [Fan, new("c"), new("b")]).Select(e => e.Put!)]);
        Assert.Equal(["EXF-1", "EXF-2", "EXF-3"], mended.All<Equipment>().Select(e => e.Name).Order());
        Assert.DoesNotContain(FindingsIndex.Full(mended).All, f => f.Code == "name");
    }

    [Fact]
    public void Mending_goes_from_places_to_what_stands_in_them()
    {
        Project project = With(Convention(new NamingRule { For = "room", Pattern = "{floor}.{nn} {name}" }, Equipment("{room} {kind}")) with { Rules = [new NamingRule { For = "room", Pattern = "{floor}.{nn} {name}" }, Equipment("{room} {name}")] },
            KilnRoom.Project().Find<Place>(Floor)! with { ShortName = "1" });
        var edits = Naming.Fix(project, [Fan, Room]);
        Assert.Equal(["1.01 Kiln room", "1.01 Kiln room Extract"], edits.Select(e => e.Put!.Name));
    }

    [Fact]
    public void Network_names_follow_from_the_names_above_and_may_not_clash()
    {
        NamingRule rule = new() { For = NamingConvention.Network, Pattern = "{building}.{short}.{equipment}.{name}", Letters = "letters digits . -", Longest = 40, Unique = NameScope.Project, Case = LetterCase.Upper };
        Project project = With(Convention(rule));
        var naming = Naming.Of(project)!;
        Assert.Equal("KH.KILN-ROOM.EXTRACT.HIGH-LIMIT", naming.NetworkName(project, project.Find<Point>(Limit)!));
        // Belonging to a room and no equipment: the token says nothing and takes its separator along.
        Assert.Equal("KH.KILN-ROOM.ROOM-TEMPERATURE", naming.NetworkName(project, project.Find<Point>(Temperature)!));
        Project shorter = Accept(project, project.Find<Place>(Room)! with { ShortName = "KR" });
        Assert.Equal("KH.KR.EXTRACT.HIGH-LIMIT", naming.NetworkName(shorter, shorter.Find<Point>(Limit)!));
        Project clash = Accept(shorter, new Place { Id = new("kr2"), Name = "Kiln room 2", ShortName = "KR", Kind = PlaceKind.Room, In = Floor }, shorter.Find<Point>(Temperature)! with { Id = new("t2"), OwnerId = new("kr2"), SetpointId = null });
        Assert.Equal(2, FindingsIndex.Full(clash).All.Count(f => f.Code == "network-name"));
    }

    [Theory]
    [InlineData("equipment", "{kind", "the brace at character 1 is not closed")]
    [InlineData("equipment", "kind}", "the brace at character 5 closes nothing")]
    [InlineData("equipment", "{colour} {n}", "{colour} is no token")]
    [InlineData("equipment", "{kind}", "put {name} or a number into it")]
    [InlineData("equipment", "{n} {nn}", "once and one number")]
    [InlineData("equipment", " ", "it is empty")]
    [InlineData("building", "{room} {name}", "a building has no {room}")]
    [InlineData("room", "{equipment} {name}", "a room has no {equipment}")]
    [InlineData("network name", "{name}{n}", "cannot count")]
    [InlineData("window", "{name}", "is not a kind of record with names")]
    public void A_pattern_that_cannot_be_used_says_why(string kind, string pattern, string sentence) =>
        Assert.Contains(NamingConvention.Empty with { Rules = [new NamingRule { For = kind, Pattern = pattern }] } is var c ? c.Check(KilnRoom.Project()) : [], r => r.Sentence.Contains(sentence, StringComparison.Ordinal));

    [Fact]
    public void A_convention_refuses_what_would_do_nothing()
    {
        string[] Refused(NamingConvention convention) => [.. convention.Check(KilnRoom.Project()).Select(r => r.Sentence)];
        Assert.Contains("shortens nothing", Assert.Single(Refused(NamingConvention.Empty with { Abbreviations = new Dictionary<string, string> { ["fan"] = "extract" } })), StringComparison.Ordinal);
        Assert.Contains("two ways", Assert.Single(Refused(NamingConvention.Empty with { Abbreviations = new Dictionary<string, string> { ["fan"] = "f", ["FAN"] = "g" } })), StringComparison.Ordinal);
        Assert.Contains("neither letters", Assert.Single(Refused(Convention(Equipment("{name}") with { Letters = "letters numbers" }))), StringComparison.Ordinal);
        Assert.Contains("3 to 255", Assert.Single(Refused(Convention(Equipment("{name}") with { Longest = 2 }))), StringComparison.Ordinal);
        Assert.Contains("two rules", Assert.Single(Refused(Convention(Equipment("{name}"), Equipment("{name} {n}")))), StringComparison.Ordinal);
        Assert.Contains("has a naming convention already", Assert.Single(Changes.Apply(With(Convention()), new ChangeSet([Edit.Of(Convention() with { Id = new("other") })], "engineer", 0)).Refusals).Sentence, StringComparison.Ordinal);
    }

    [Property(MaxTest = 200)]
    public void A_name_filled_in_follows_its_pattern(uint number, byte shape)
    {
        string[] patterns = ["{building}-{kind}-{nn}", "{short} {name}", "{n}. {name}", "{floor}{nnn} {name}", "{name} ({nn})", "x{n}{name}"];
        var pattern = NamePattern.Parse(patterns[shape % patterns.Length]);
        int n = (int)(number % 100_000) + 1;
        string Token(string token) => token == "floor" ? "" : token;
        Assert.True(pattern.Matches(pattern.Fill(Token, "Supply fan", n), Token, out string free, out int? read));
        if (pattern.IsFree) Assert.Equal("Supply fan", free);
        if (pattern.Counts) Assert.Equal(n, read);
    }

    [Fact]
    public void Checking_names_only_where_an_edit_reached_finds_the_same_as_checking_all()
    {
        var random = new Random(11);
        NamingConvention[] conventions =
        [
            Convention(Equipment("{short} {name} {n}", NameScope.Building), new NamingRule { For = "point", Pattern = "{kind} {name}", Unique = NameScope.Floor }, new NamingRule { For = "room", Pattern = "{building} {name}" }),
            Convention(new NamingRule { For = NamingConvention.Network, Pattern = "{building}.{floor}.{short}.{equipment}.{name}", Unique = NameScope.Project, Longest = 34 }, new NamingRule { For = "controller", Pattern = "{building}-C{n}" }, new NamingRule { For = "sequence", Pattern = "{equipment}" }),
        ];
        for (int round = 0; round < 40; round++)
        {
            Project project = With(conventions[round % 2], new Place { Id = new("other-room"), Name = "Drying room", Kind = PlaceKind.Room, In = Floor });
            FindingsIndex findings = FindingsIndex.Full(project);
            for (int i = 0; i < 25; i++)
            {
                Edit[] edits = random.Next(8) switch
                {
                    0 when project.All<Place>().Where(p => p.Kind != PlaceKind.Site).OrderBy(p => p.Id).ToList() is { Count: > 0 } places => [Edit.Of(places[random.Next(places.Count)] with { ShortName = $"S{random.Next(3)}" })],
                    1 when project.All<Equipment>().MinBy(e => e.Id) is { } fan && project.Find(new RecordId("other-room")) is not null => [Edit.Of(fan with { PlaceId = random.Next(2) == 0 ? new("other-room") : fan.PlaceId, Kind = random.Next(2) == 0 ? "pump" : "extract fan" })],
                    2 when project.All<Point>().OrderBy(p => p.Id).ToList() is { Count: > 1 } points => [Edit.Of(points[random.Next(points.Count)] with { Name = $"Same {random.Next(2)}" })],
                    3 when random.Next(4) == 0 => [Edit.Of(conventions[random.Next(2)] with { Words = ["saggar"] })],
                    _ => RandomEdits.Next(project, random),
                };
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 0));
                if (!outcome.Accepted) continue;
                findings = findings.After(project, outcome.After!, outcome.Entry!.Changes.Select(c => c.Id));
                project = outcome.After!;
                FindingsIndex full = FindingsIndex.Full(project);
                // Which of several namesakes is named may differ; that there is one, and the name instead, may not.
                Assert.Equal(full.All.Select(f => (f.Key, f.Fixes.FirstOrDefault()?.Label)), findings.All.Select(f => (f.Key, f.Fixes.FirstOrDefault()?.Label)));
            }
        }
    }

    [Fact]
    public void A_convention_that_cannot_be_says_where()
    {
        Project house = KilnRoom.Project();
        NamingConvention Ruled(params NamingRule[] rules) => NamingConvention.Empty with { Rules = rules };
        NamingRule room = new() { For = "room", Pattern = "{name}" };
        KilnRoom.Refuses(house, Ruled(room, room), "rules", "There are two rules for the names of room. Keep one.");
        Assert.StartsWith("‘teapot’ is not a kind of record with names. Use one of: ", KilnRoom.Refused(house, Edit.Of(Ruled(room with { For = "teapot" })))[0].Sentence, StringComparison.Ordinal);
        Assert.StartsWith("The pattern for room: ", KilnRoom.Refused(house, Edit.Of(Ruled(room with { Pattern = "{teapot}" })))[0].Sentence, StringComparison.Ordinal);
        KilnRoom.Refuses(house, Ruled(room with { Longest = 2 }), "rules", "The longest name of room is 2; give 3 to 255.");
        Assert.StartsWith("The letters for room: ", KilnRoom.Refused(house, Edit.Of(Ruled(room with { Letters = "z-a" })))[0].Sentence, StringComparison.Ordinal);
        NamingConvention Short(params (string, string)[] pairs) => NamingConvention.Empty with { Abbreviations = pairs.ToDictionary(p => p.Item1, p => p.Item2) };
        KilnRoom.Refuses(house, Short(("fan", "fans")), "abbreviations", "‘fan’ to ‘fans’ shortens nothing. Give a word and something shorter.");
        KilnRoom.Refuses(house, Short(("Fan", "F"), ("fan", "fn")), "abbreviations", "‘Fan’ is shortened in two ways. Keep one.");
        KilnRoom.Refuses(house, NamingConvention.Empty with { Words = [.. Enumerable.Range(0, 20_001).Select(i => $"w{i}")] }, "abbreviations", "At most 2000 abbreviations and 20 000 words.");
    }
}
