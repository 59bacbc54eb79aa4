using LoftyWren.Core.Fields;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Search;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Records;

/// <summary>A kind that is registered by one line takes part in everything, without another line anywhere.</summary>
public class RecordKindTests
{
    private static readonly RecordId Id = new("hatch-a");

    private static Hatch A { get; } = new() { Id = Id, Name = "Roof hatch", OwnerId = Fan, Address = 7, WidthMetres = 1.2, Note = "opens outward", Opens = [FanCommand, Temperature] };

    private static Project With(params ProjectRecord[] more) => Accept(KilnRoom.Project(), [A, .. more]);

    private static IReadOnlyList<Edit> Edits(CellPlan plan)
    {
        Assert.Empty(plan.Refusals);
        return plan.Edits;
    }

    [Fact]
    public void It_is_found_by_its_name_and_its_place()
    {
        var finder = new Finder();
        Project project = With();
        finder.Fill(project);
        Assert.Equal((Id, "hatch"), finder.Find(project, "kiln roof hatch", nouns: ["hatch"]).Select(h => (h.Id, h.Noun)).Single());
    }

    [Fact]
    public void Its_words_are_spelled_and_corrected()
    {
        Hatch wrong = A with { Note = "opens outwrad" };
        Project project = With() is var p ? Accept(p, wrong) : p;
        Finding finding = Assert.Single(FindingsIndex.Full(project).On(Id), f => f.Code == "spelling");
        Assert.Equal("‘outwrad’ in the note of ‘Roof hatch’ is not in the word list.", finding.What);
        Assert.Equal("opens outward", Accept(project, [.. finding.Fixes[0].Edits]).Find<Hatch>(Id)!.Note);
    }

    [Fact]
    public void Its_names_follow_the_naming_convention()
    {
        Assert.Contains("hatch", NamingConvention.Kinds);
        Project project = Accept(With(), NamingConvention.Empty with { Rules = [new NamingRule { For = "hatch", Pattern = "{room} hatch {nn}" }] });
        Finding finding = Assert.Single(FindingsIndex.Full(project).On(Id), f => f.Code == "name");
        Assert.Equal("By the naming convention this hatch would be called ‘Kiln room hatch 01’.", finding.Why);
        Refuses(project, NamingConvention.Of(project)! with { Rules = [new NamingRule { For = "hatch", Pattern = "{equipment} {name}" }] }, "rules", "The pattern for hatch: a hatch has no {equipment}.");
    }

    [Fact]
    public void It_is_tagged_by_what_it_is_and_by_rules_on_its_fields()
    {
        Project project = Accept(With(), new TaggingRule { Id = new("r"), Name = "Glass", Condition = "record is \"hatch\" and glazing is \"glass\"", Gives = new Dictionary<string, string> { ["fragile"] = "M" } });
        TagIndex tags = TagIndex.Full(project);
        Assert.True(Filter.Parse("hatch and fragile").Matches(tags[Id], tags.Resolve));
        project = Accept(project, A with { Glazing = "steel" });
        Assert.False(Filter.Parse("fragile").Matches(TagIndex.Full(project)[Id], tags.Resolve));
    }

    [Fact]
    public void It_is_exported_and_imported_with_its_links_whatever_their_order()
    {
        Project project = With(new Hatch { Id = new("hatch-b"), Name = "Side hatch", OwnerId = Room, Address = 8, Glazing = "steel", Tags = new Dictionary<string, string> { ["sooty"] = "M" } });
        Sheet list = ListExport.Of(project, Site);
        ListMapping mapping = ListMapping.Propose(list);
        // By hand: four fields, tags and the name are its own columns; links are named as they stand nearest.
        Assert.Equal(["hatch", "hatch.address", "hatch.widthMetres", "hatch.glazing", "hatch.note", "hatch.opens", "hatch.tags"], mapping.Columns.Where(c => c.StartsWith("hatch", StringComparison.Ordinal)));
        Assert.All(ListImport.Plan(project, list, mapping).Lines, l => Assert.Equal(RowVerdict.Same, l.Verdict));
        Project bare = Accept(KilnRoom.Project(), [.. Removal.Of(KilnRoom.Project(), [Building]).Edits]);
        // Read from the last row to the first, so that links lead to rows that come later.
        Sheet backwards = new("s", [list.Rows[0], .. list.Rows.Skip(1).Reverse()]);
        ImportPlan plan = ListImport.Plan(bare, backwards, mapping with { BlankIsAbove = false });
        Assert.Empty(plan.BadCells);
        Project read = Accept(bare, [.. plan.Edits]);
        Hatch roof = read.All<Hatch>().Single(h => h.Name == "Roof hatch"), side = read.All<Hatch>().Single(h => h.Name == "Side hatch");
        Assert.Equal((7, 1.2, "glass", "opens outward"), (roof.Address, roof.WidthMetres, roof.Glazing, roof.Note));
        Assert.Equal(["Extract fan", "Room temperature"], roof.Opens.Select(o => read.Find(o)!.Name));
        Assert.Equal((8, "steel", "M"), (side.Address, side.Glazing, side.Tags!["sooty"]));
        Assert.Equal(["Kiln room", "Extract"], new[] { side, roof }.Select(h => read.Find(h.OwnerId)!.Name));
    }

    [Fact]
    public void A_list_tells_which_cell_of_it_cannot_be_taken()
    {
        Sheet list = new("s", [["Floor", "Room", "Hatch", "Hatch width", "Hatch glazing", "Hatch opens for"], ["First floor", "Kiln room", "One", "wide", "paper", ""], ["First floor", "Kiln room", "Two", "2 m", "", "Nothing like this"], ["First floor", "Kiln room", "Three", "3", "steel", "High limit"]]);
        ImportPlan plan = ListImport.Plan(KilnRoom.Project(), list, ListMapping.Propose(list));
        Assert.Equal(["D2", "E2", "F3"], plan.BadCells.Select(b => $"{b.Column}{b.Row}"));
        Assert.Equal(["‘wide’ is not a number. Write digits, such as 21.5.", "‘paper’ is not a glazing. Use glass or steel.", "There is no point ‘Nothing like this’ in the project. Write its name, or its id."], plan.BadCells.Select(b => b.Sentence));
        // A row is taken whole or not at all, and a new record has a number of its own.
        Hatch three = Assert.IsType<Hatch>(Assert.Single(plan.Edits).Put);
        Assert.Equal(("Three", 3.0, 1), (three.Name, three.WidthMetres, three.Address));
    }

    [Fact]
    public void A_grid_orders_groups_and_writes_it()
    {
        Project project = With(new Hatch { Id = new("hatch-b"), Name = "Side hatch", OwnerId = Room, Address = 8, WidthMetres = 0.4, Glazing = "steel" });
        RecordKind kind = Hatch.AsKind;
        Assert.Equal(["name", "address", "widthMetres", "glazing", "note", "opens"], kind.Offered(FieldUses.Grid).Select(f => f.Key));
        var rows = RecordOrder.Under(project, Site, kind).ToList();
        Assert.Equal([new("hatch-b"), Id], RecordOrder.Sort(project, kind, rows, "widthMetres", null).Ids);
        Assert.Equal([new RowGroup("glass", 0, 1), new RowGroup("steel", 1, 1)], RecordOrder.Sort(project, kind, rows, null, "glazing").Groups);
        CellPlan plan = CellEdits.Plan(project, [new(Id, "widthMetres", "1,5 m"), new(Id, "opens", "High limit; " + Temperature), new(new("hatch-c"), "name", "New hatch", 0, "hatch", Room)]);
        Project after = Accept(project, [.. Edits(plan)]);
        Assert.Equal(1.5, after.Find<Hatch>(Id)!.WidthMetres);
        Assert.Equal([Limit, Temperature], after.Find<Hatch>(Id)!.Opens);
        Assert.Equal(("New hatch", 9), (after.Find<Hatch>(new("hatch-c"))!.Name, after.Find<Hatch>(new("hatch-c"))!.Address));
        Assert.Contains(plan.Changes, c => (c.Label, c.Before, c.After) == ("Opens for", "Extract fan; Room temperature", "High limit; Room temperature"));
    }

    [Fact]
    public void It_is_compared_undone_and_removed_with_its_uses()
    {
        Project project = With();
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(A with { WidthMetres = 2, Opens = [Limit] })], "engineer", 0));
        Assert.Equal("Changed hatch ‘Roof hatch’", outcome.Entry!.Label);
        Assert.Equal([("width", "1.2", "2"), ("opens for", "Extract fan, Room temperature", "High limit")], Differences.Fields(A, outcome.After!.Find(Id), project.Find).Select(f => (f.Words, f.Before, f.After)));
        Assert.True(RecordJson.Same(A, Accept(outcome.After!, [.. Changes.Inverse(outcome.After!, outcome.Entry).Edits]).Find(Id)));
        Removal removal = Removal.Of(project, [Temperature]);
        Assert.Equal([FanCommand], Accept(project, [.. removal.Edits]).Find<Hatch>(Id)!.Opens);
        Assert.Null(Accept(project, [.. Removal.Of(project, [Fan]).Edits]).Find(Id));
        Assert.Equal("There is already a hatch called ‘Roof hatch’ here.", Refused(project, Edit.Of(A with { Id = new("other"), Address = 9 })).Single().Sentence);
    }

    [Fact]
    public void Forty_placings_have_forty_numbers_and_lead_each_to_its_own()
    {
        var left = new List<string>();
        Template template = Capture.Of(With(), Fan, "t", "Extract", left);
        Assert.Contains(Capture.Variables(template), v => v is { Path: "widthMetres", Words: "Roof hatch › width", Unit: "m" });
        Project project = KilnRoom.Project();
        PlacingPlan plan = Placing.Plan(project, template, new PlacingRequest([Room], 40, "Fan {n}"));
        Assert.Empty(plan.Refusals);
        project = Accept(project, [.. plan.Records]);
        var hatches = project.All<Hatch>().ToList();
        Assert.Equal(Enumerable.Range(1, 40), hatches.Select(h => h.Address).Order());
        // The fan's own output comes along, the room's sensor is led nowhere unless somebody says where.
        Assert.All(hatches, h => Assert.Equal(h.OwnerId, project.Find<Point>(Assert.Single(h.Opens))!.OwnerId));
    }

    [Fact]
    public void Copies_have_numbers_of_their_own_and_say_so()
    {
        CopyPlan plan = Copying.Plan(With(), Fan, 3, "{name} {n}");
        Assert.Empty(plan.Refusals);
        Assert.Equal([8, 9, 10], plan.Records.OfType<Hatch>().Select(h => h.Address));
        Assert.Contains("proposed: hatch Roof hatch with address 8", plan.Notes);
        // The sensor serves the copies too; the output of each copy is its own.
        Assert.All(plan.Records.OfType<Hatch>(), h => Assert.Contains(Temperature, h.Opens));
        Assert.All(plan.Records.OfType<Hatch>(), h => Assert.DoesNotContain(FanCommand, h.Opens));
    }

    [Fact]
    public void One_finding_watches_it_edit_by_edit()
    {
        Project project = With();
        FindingsIndex findings = FindingsIndex.Full(project);
        Assert.DoesNotContain(findings.On(Id), f => f.Code == "idle-hatch");
        // By removing what it leads to, without touching it by name.
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(Removal.Of(project, [Temperature, FanCommand]).Edits, "engineer", 0));
        Assert.True(outcome.Accepted);
        Assert.Contains(findings.After(project, outcome.After!, outcome.Entry!.Changes.Select(c => c.Id)).On(Id), f => f.Code == "idle-hatch");
    }

    [Fact]
    public void Two_people_may_write_different_fields_of_it_but_not_the_same()
    {
        Project seen = With();
        long revision = seen.FindEntry(Id)!.Revision;
        Project now = Accept(seen, A with { Note = "painted shut" });
        ProjectRecord? Past(RecordId id, long at) => at == revision ? seen.Find(id) : null;
        CellPlan width = CellEdits.Plan(now, [new(Id, "widthMetres", "2", revision)], Past);
        Hatch both = Accept(now, [.. Edits(width)]).Find<Hatch>(Id)!;
        Assert.Equal(("painted shut", 2.0), (both.Note, both.WidthMetres));
        CellPlan note = CellEdits.Plan(now, [new(Id, "note", "opens inward", revision)], Past);
        Assert.Equal(Id, Assert.Single(Changes.Apply(now, new ChangeSet(Edits(note), "engineer", 0)).Conflicts).RecordId);
    }

    [Fact]
    public void What_follows_from_a_field_counts_as_written_where_two_people_write()
    {
        Project seen = KilnRoom.Project();
        long revision = seen.FindEntry(Limit)!.Revision;
        Project now = Accept(seen, seen.Find<Point>(Limit)! with { Low = 15 });
        // Another kind takes the low limit away, which somebody has set meanwhile and the author has not seen.
        CellPlan kind = CellEdits.Plan(now, [new(Limit, "kind", "binary", revision)], (id, _) => seen.Find(id));
        Assert.Equal(Limit, Assert.Single(Changes.Apply(now, new ChangeSet(Edits(kind), "engineer", 0)).Conflicts).RecordId);
        CellPlan high = CellEdits.Plan(now, [new(Limit, "high", "35", revision)], (id, _) => seen.Find(id));
        Point both = Accept(now, [.. Edits(high)]).Find<Point>(Limit)!;
        Assert.Equal((15.0, 35.0), (both.Low, both.High));
    }

    [Fact]
    public void Kinds_are_told_apart_and_cannot_be_registered_twice_or_late()
    {
        Assert.Equal(RecordKinds.All.Count, RecordKinds.All.Select(k => k.Key).Distinct().Count());
        Assert.Equal(RecordKinds.Nouns.Count(), RecordKinds.Nouns.Select(n => n.Noun).Distinct().Count());
        Assert.Throws<InvalidOperationException>(() => RecordKinds.Register(Hatch.AsKind));
        Assert.All(RecordKinds.All, k => Assert.Equal(k.Fields.Count, k.Fields.Select(f => f.Key).Distinct().Count()));
        Assert.Equal(ListColumns.All.Count, ListColumns.All.Select(c => c.Key).Distinct().Count());
    }

    [Fact]
    public void What_a_field_writes_it_reads_back()
    {
        Project project = With();
        foreach (ProjectRecord record in project.Records)
        {
            foreach (Field field in RecordKinds.Of(record).Fields.Where(f => f.IsOf(record) && !f.IsShown && f.Key != "type"))
            {
                FieldReading reading = field.Read(project, record, field.Write(project, record));
                Assert.True(reading.Record is not null && RecordJson.Same(record, RecordKinds.Of(record).Settle(record, reading.Record)), $"{record.Noun} {record.Name}, {field.Key}: {field.Write(project, record)} {reading.Refusal}");
            }
        }
    }
}
