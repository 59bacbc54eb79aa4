using System.Globalization;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Templates;

/// <summary>What holds of every placing, on all shipped templates with random values.</summary>
public class PlacingLawTests
{
    private static readonly Project House = Accept(KilnRoom.Project(), new Place { Id = new("a"), Name = "Throwing studio", Kind = PlaceKind.Room, In = Floor });

    public static TheoryData<string> All() => [.. StarterLibrary.Templates.Select(t => t.Id)];

    private static (Template Template, Project Project, Equipment Placed, Dictionary<string, string> Values) Place(string id, Random random)
    {
        Template template = StarterLibrary.Templates.Single(t => t.Id == id);
        var values = template.Parameters.ToDictionary(p => p.Name, p => p.Kind switch
        {
            ParameterKind.Number => Math.Round((p.Low ?? 0) + (random.NextDouble() * ((p.High ?? 100) - (p.Low ?? 0))), 1).ToString(CultureInfo.InvariantCulture),
            ParameterKind.Choice => p.Choices![random.Next(p.Choices!.Count)],
            _ => $"text {random.Next(100)}",
        });
        PlacingPlan plan = Placing.Plan(House, template, new PlacingRequest([new("a")], 1, "Unit", values));
        Assert.Empty(plan.Refusals);
        Project project = Accept(House, [.. plan.Records]);
        return (template, project, project.All<Equipment>().Single(e => e.Name == "Unit"), values);
    }

    private static Project Apply(Project project, IReadOnlyList<Edit> edits) => Accept(project, [.. edits]);

    /// <summary>A placement equals the template it was just made from, whatever its values; bringing it up to the same revision changes no record but its memory.</summary>
    [Theory]
    [MemberData(nameof(All))]
    public void A_placement_is_as_its_template_and_an_update_to_the_same_revision_changes_nothing(string id)
    {
        var random = new Random(3);
        for (int round = 0; round < 5; round++)
        {
            var (template, project, placed, values) = Place(id, random);
            Assert.Equal(values.OrderBy(v => v.Key), placed.Placed!.Values.OrderBy(v => v.Key));
            Assert.Empty(Placing.Compare(project, placed, template, template));
            Project updated = Apply(project, Placing.Update(project, placed, template, template, new HashSet<string>()));
            Assert.All(project.Records, r => Assert.True(RecordJson.Same(r, updated.Find(r.Id)!), r.Id.Value));
        }
    }

    /// <summary>What was changed by hand, and only that, is a local difference; kept it stays, given up it is as the template again.</summary>
    [Theory]
    [MemberData(nameof(All))]
    public void Local_changes_are_told_exactly_kept_or_given_up(string id)
    {
        var random = new Random(5);
        for (int round = 0; round < 5; round++)
        {
            var (template, project, placed, _) = Place(id, random);
            Point[] points = [.. project.All<Point>().Where(p => p.OwnerId == placed.Id).OrderBy(p => p.Id)];
            Point[] touched = [.. points.Where(_ => random.Next(3) == 0)];
            if (touched.Length == 0) touched = [points[0]];
            Project changed = Accept(project, [.. touched.Select(p => p with { Description = $"seen on site {round}" })]);
            var differences = Placing.Compare(changed, placed, template, template);
            Assert.Equal(touched.Select(p => (p.Id, "description", true)), differences.Select(d => (d.RecordId, d.Field, d.IsLocal)).OrderBy(d => d.RecordId));
            Project kept = Apply(changed, Placing.Update(changed, placed, template, template, new HashSet<string>()));
            Assert.All(touched, p => Assert.Equal($"seen on site {round}", kept.Find<Point>(p.Id)!.Description));
            Project given = Apply(changed, Placing.Update(changed, placed, template, template, differences.Select(d => $"{d.RecordId}/{d.Field}").ToHashSet()));
            Assert.Empty(Placing.Compare(given, given.Find<Equipment>(placed.Id)!, template, template));
            Assert.All(project.Records, r => Assert.True(RecordJson.Same(r, given.Find(r.Id)!), r.Id.Value));
        }
    }

    /// <summary>A template taken from a placement and placed anew makes the same engineering: as many records of each sort, of the same names, with the same settings.</summary>
    [Theory]
    [MemberData(nameof(All))]
    public void What_is_taken_from_a_placement_and_placed_again_is_the_same_engineering(string id)
    {
        var (_, project, placed, _) = Place(id, new Random(7));
        var left = new List<string>();
        Template taken = Capture.Of(project, placed.Id, "taken", "Taken", left);
        Assert.Null(taken.Refuse());
        PlacingPlan plan = Placing.Plan(project, taken, new PlacingRequest([Room], 1, "Unit"));
        Assert.Empty(plan.Refusals);
        Project twice = Accept(project, [.. plan.Records]);
        static IEnumerable<string> Said(Project all, IEnumerable<ProjectRecord> records) => records.Where(r => r is not Equipment).Select(r => $"{r.Noun} {r.Name} {(r is Point p ? $"{p.Kind} {p.Role} {p.Unit} {p.Low} {p.High} {p.Fallback} {string.Join("/", p.StateTexts)}" : "")} of {all.Find(r.ParentId!.Value)!.Name}").Order(StringComparer.Ordinal);
        var before = project.Records.Where(r => House.Find(r.Id) is null);
        Assert.Equal(Said(project, before), Said(twice, plan.Records));
    }

    /// <summary>Removing a placement takes all of it and nothing else.</summary>
    [Theory]
    [MemberData(nameof(All))]
    public void Removing_the_root_removes_the_placement_whole(string id)
    {
        var (_, project, placed, _) = Place(id, new Random(11));
        Project without = Apply(project, Removal.Of(project, [placed.Id]).Edits);
        Assert.Equal(House.Records.Select(r => r.Id).Order(), without.Records.Select(r => r.Id).Order());
    }
}
