using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Projects;

public class AlignmentTests
{
    /// <summary>The kiln room again with other ids throughout but for the site, as if somebody else had made it.</summary>
    private static Project Elsewhere()
    {
        Project project = KilnRoom.Project();
        string[] ids = [.. project.Records.Select(r => r.Id.Value).Where(i => i != "site").OrderByDescending(i => i.Length)];
        return Load(project.Records.Select(r =>
        {
            string json = RecordJson.Write(r);
            foreach (string id in ids) json = json.Replace($"\"{id}\"", $"\"other-{id}\"", StringComparison.Ordinal);
            return RecordJson.Read(json);
        }));
    }

    private static Project Load(IEnumerable<ProjectRecord> records)
    {
        ChangeOutcome outcome = Changes.Apply(Project.Empty, new ChangeSet([.. records.Select(r => Edit.Of(r))], "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }

    [Fact]
    public void Two_projects_that_say_the_same_under_other_ids_do_not_differ()
    {
        Assert.Equal(2 * (KilnRoom.Project().Count - 1), Differences.Between(Elsewhere(), KilnRoom.Project()).Count);
        Assert.Empty(Differences.Between(Alignment.Onto(Elsewhere(), KilnRoom.Project()), KilnRoom.Project()));
    }

    [Fact]
    public void What_is_named_otherwise_is_another_record_and_what_differs_in_a_field_is_changed()
    {
        Project other = Elsewhere();
        var records = other.Records.Select(r => r.Id.Value switch
        {
            "other-high-limit" => ((Point)r) with { Fallback = 31 },
            "other-room-temp" => r with { Name = "Temperature of the room" },
            _ => r,
        });
        var differences = Differences.Between(Alignment.Onto(Load(records), KilnRoom.Project()), KilnRoom.Project());
        Assert.Contains(differences, d => d is { Kind: DifferenceKind.Changed, Name: "High limit", Fields: [{ Field: "fallback", Before: "31", After: "29" }] });
        Assert.Contains(differences, d => d is { Kind: DifferenceKind.Removed, Name: "Temperature of the room" });
        Assert.Contains(differences, d => d is { Kind: DifferenceKind.Added, Name: "Room temperature" });
    }
}
