using System.Collections;
using System.Reflection;
using System.Runtime.CompilerServices;
using System.Text.Json.Serialization;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Records;

/// <summary>Each record hands over every reference that it holds, in one place; all else follows from that.</summary>
public class ReferenceTests
{
    public static TheoryData<Type> Sorts() => [.. RecordShape.Sorts];

    /// <summary>A record of a sort with every property filled, an id of its own in each place that takes one; and the ids given out.</summary>
    private static (ProjectRecord Record, List<RecordId> Ids) Filled(Type sort)
    {
        var ids = new List<RecordId>();
        return ((ProjectRecord)Make(sort, 0)! with { Id = new("own") }, ids);

        object? Make(Type type, int depth)
        {
            type = Nullable.GetUnderlyingType(type) ?? type;
            // Own blocks may stand in each other; one in another is enough.
            if (depth > 20 || (type == typeof(Part) && depth > 6)) return null;
            if (type == typeof(RecordId))
            {
                ids.Add(new($"ref-{ids.Count}"));
                return ids[^1];
            }
            if (type == typeof(string)) return "x";
            if (type.IsEnum) return Enum.GetValues(type).GetValue(0);
            if (type.IsPrimitive) return Convert.ChangeType(1, type, System.Globalization.CultureInfo.InvariantCulture);
            if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(IReadOnlyDictionary<,>))
            {
                var table = (IDictionary)Activator.CreateInstance(typeof(Dictionary<,>).MakeGenericType(type.GetGenericArguments()))!;
                // The keys of tables are names within the record or its template, not references.
                int n = 0;
                foreach (object? value in Each(type.GetGenericArguments()[1], depth)) table[type.GetGenericArguments()[0] == typeof(RecordId) ? new RecordId($"t-{n++}") : $"k{n++}"] = value;
                return table;
            }
            if (type.IsGenericType && typeof(IEnumerable).IsAssignableFrom(type))
            {
                var list = (IList)Activator.CreateInstance(typeof(List<>).MakeGenericType(type.GetGenericArguments()))!;
                foreach (object? item in Each(type.GetGenericArguments()[0], depth)) list.Add(item);
                return list;
            }
            if (type.Namespace?.StartsWith("LoftyWren", StringComparison.Ordinal) != true) return type.IsValueType ? Activator.CreateInstance(type) : null;
            if (type.IsAbstract) return Each(type, depth).FirstOrDefault();
            object made = RuntimeHelpers.GetUninitializedObject(type);
            foreach (PropertyInfo property in type.GetProperties().Where(p => p.SetMethod is not null && p.GetIndexParameters().Length == 0))
            {
                if (depth == 0 && property.Name == "Id") continue;
                property.SetValue(made, Make(property.PropertyType, depth + 1));
            }
            return made;
        }

        IEnumerable<object?> Each(Type type, int depth)
        {
            Type[] sorts = [.. type.GetCustomAttributes<JsonDerivedTypeAttribute>().Select(a => a.DerivedType)];
            return (sorts.Length == 0 ? [type] : sorts).Select(t => Make(t, depth + 1)).Where(v => v is not null);
        }
    }

    [Theory]
    [MemberData(nameof(Sorts))]
    public void Every_id_in_a_record_is_handed_over(Type sort)
    {
        var (record, ids) = Filled(sort);
        Assert.Equal(ids.Order(), record.References().Select(r => r.To).Distinct().Order());
        if (record.ParentId is { } parent) Assert.Contains(record.References(), r => r.To == parent && r.Owning);
    }

    /// <summary>The JSON of a record with every id exchanged for another is the JSON of the record that was led there; back again it is the same record.</summary>
    [Theory]
    [MemberData(nameof(Sorts))]
    public void Leading_elsewhere_exchanges_exactly_the_ids(Type sort)
    {
        var (record, ids) = Filled(sort);
        var there = ids.ToDictionary(id => id, id => new RecordId($"to-{id.Value[4..]}-z"));
        string expected = RecordJson.Write(record);
        foreach (var (from, to) in there) expected = expected.Replace($"\"{from}\"", $"\"{to}\"", StringComparison.Ordinal);
        ProjectRecord led = record.Led(there);
        Assert.Equal(expected, RecordJson.Write(led));
        Assert.Equal(RecordJson.Write(record), RecordJson.Write(led.Led(there.ToDictionary(x => x.Value, x => x.Key))));
        Assert.Same(record, record.Led(new Dictionary<RecordId, RecordId> { [new("nobody")] = new("somebody") }));
    }

    /// <summary>Without its links a record refers only to what it belongs to, and nothing of them is left in it.</summary>
    [Theory]
    [MemberData(nameof(Sorts))]
    public void Letting_go_leaves_owners_alone(Type sort)
    {
        var (record, ids) = Filled(sort);
        ProjectRecord without = record.Without(ids.ToHashSet());
        Assert.Equal(record.References().Where(r => r.Owning).Select(r => r.To).Order(), without.References().Select(r => r.To).Order());
        string json = RecordJson.Write(without);
        Assert.All(record.References().Where(r => !r.Owning), r => Assert.DoesNotContain($"\"{r.To}\"", json));
    }

    /// <summary>Take the extract fan with its clause and its silenced finding, place it forty times: every clause is met by the outputs of its own copy, and every silence is on its own.</summary>
    [Fact]
    public void Forty_placed_copies_meet_their_clauses_by_their_own_outputs()
    {
        Project project = KilnRoom.Project();
        Sequence extract = project.Find<Sequence>(KilnRoom.Sequence)!;
        project = Accept(project,
            extract with { Clauses = [new Clause { Id = "limit", Text = "Above the limit the fan runs.", Blocks = ["high"], Outputs = [FanCommand] }] },
            new Silence { Id = new("si"), Name = "quiet", OnId = FanCommand, FindingKey = $"not-commanded|{FanCommand}", Reason = "It is meant.", Who = "engineer" });
        for (int i = 0; i < 40; i++) project = Accept(project, new Place { Id = new($"room-{i}"), Name = $"Studio {i}", Kind = PlaceKind.Room, In = Floor });
        Template template = Capture.Of(project, Fan, "mine", "Kiln extract", []);
        PlacingPlan plan = Placing.Plan(project, template, new PlacingRequest([.. Enumerable.Range(0, 40).Select(i => new RecordId($"room-{i}"))], 1, "Extract"));
        Assert.Empty(plan.Refusals);
        Project after = Accept(project, [.. plan.Records]);
        Sequence[] placed = [.. after.All<Sequence>().Where(s => s.Id != KilnRoom.Sequence)];
        Assert.Equal(40, placed.Length);
        Assert.All(placed, s =>
        {
            RecordId output = Assert.Single(Assert.Single(s.Clauses).Outputs);
            Assert.Equal(s.EquipmentId, after.Find<Point>(output)!.OwnerId);
            Assert.Equal(output, Assert.Single(s.Commands).PointId);
            Assert.True(s.Clauses[0].IsMetIn(s));
        });
        Assert.All(after.All<Silence>(), s => Assert.Equal($"not-commanded|{s.OnId}", s.FindingKey));
        Assert.Equal(41, after.All<Silence>().Select(s => s.OnId).Distinct().Count());
        // Copies go the same way.
        CopyPlan copies = Copying.Plan(project, Room, 3, "Kiln room {n}");
        Assert.Empty(copies.Refusals);
        Project copied = Accept(project, [.. copies.Records]);
        Assert.All(copied.All<Sequence>(), s => Assert.Equal(s.EquipmentId, copied.Find<Point>(s.Clauses[0].Outputs.Single())!.OwnerId));
    }

    /// <summary>Older versions left outputs of clauses and what a placement was led to behind when their records went, and took outputs of clauses into templates as they were: such projects are edited and such templates placed; a new reference that leads nowhere is refused.</summary>
    [Fact]
    public void What_older_versions_left_behind_keeps_nobody_from_working()
    {
        Project project = KilnRoom.Project();
        Clause left = new() { Id = "c", Text = "As it was.", Blocks = ["high"], Outputs = [new("long-gone")] };
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)! with { Clauses = [left] };
        Equipment fan = project.Find<Equipment>(Fan)! with { Placed = new Placement("t", "T", 1, new Dictionary<string, string>(), new Dictionary<RecordId, RecordId> { [new("t-x1")] = new("long-gone") }) };
        Project old = Core.Projects.Project.Load(project.Revision, project.Records.Select(r => new Entry(r.Id == sequence.Id ? sequence : r.Id == fan.Id ? fan : r, project.FindEntry(r.Id)!.Revision)));
        old = Accept(old, sequence with { ScanSeconds = 2 }, fan with { Name = "Extract 2" });
        Assert.Equal(2, old.Find<Sequence>(sequence.Id)!.ScanSeconds);
        Refuses(old, sequence with { Clauses = [left with { Outputs = [new("long-gone"), new("never-there")] }] }, "clauses", "The sequence ‘Kiln room extract’ refers to a point that is not in the project (never-there).");

        Template template = Capture.Of(project, Fan, "mine", "Kiln extract", []);
        Template stray = template with { Records = [.. template.Records.Select(r => r is Sequence s ? s with { Clauses = [left] } : r)] };
        PlacingPlan plan = Placing.Plan(project, stray, new PlacingRequest([Room], 1, "Second"));
        Assert.Empty(plan.Refusals);
        Assert.Empty(plan.Records.OfType<Sequence>().Single().Clauses.Single().Outputs);
    }

    /// <summary>A starter template that holds clauses has each of them met, wherever it is placed.</summary>
    [Fact]
    public void Clauses_of_the_starter_templates_are_met()
    {
        Template[] holding = [.. StarterLibrary.Templates.Where(t => t.Records.OfType<Sequence>().Any(s => s.Clauses.Count > 0))];
        Assert.True(holding.Length >= 11);
        foreach (Template template in holding)
        {
            PlacingPlan plan = Placing.Plan(KilnRoom.Project(), template, new PlacingRequest([Room], 2, "Unit {k}"));
            Assert.Empty(plan.Refusals);
            Project project = Accept(KilnRoom.Project(), [.. plan.Records]);
            foreach (Sequence sequence in plan.Records.OfType<Sequence>())
            {
                Assert.All(sequence.Clauses, c => Assert.True(c.IsMetIn(sequence)));
                Assert.All(sequence.Clauses.SelectMany(c => c.Outputs), o => Assert.Equal(sequence.EquipmentId, project.Find<Point>(o)!.OwnerId));
                // A safety may cut the times of a compressor short.
                Assert.DoesNotContain(Checks.On(project, sequence), f => f.Code is not "no-controller" and not "reads-nothing" and not "cut-short");
                Assert.All(sequence.Tests, t => Assert.True(ProofBench.Prove(project, sequence, t).Passed, $"{template.Name}: {t.Name}"));
                Assert.True(sequence.Clauses.All(c => sequence.Tests.Any(t => t.Clauses.Contains(c.Id))), template.Name);
            }
        }
    }
}
