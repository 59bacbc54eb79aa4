using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Records;

/// <summary>Gives records the next free of the numbers that no two may share: one after the highest that is taken, from the first that is given out.</summary>
public sealed class FreeNumbers(Project project)
{
    private readonly Dictionary<UniqueNumber, int> _highest = [];
    private readonly HashSet<string> _taken = [];

    /// <summary>The next free number, which is then taken.</summary>
    public int Next(RecordKind kind, UniqueNumber number)
    {
        if (!_highest.TryGetValue(number, out int highest))
        {
            highest = number.First - 1;
            foreach (ProjectRecord record in project.AllOf(kind.Type)) highest = Math.Max(highest, number.Of(record));
        }
        // At the end of the range a gap further down is taken.
        if (highest >= number.Last)
        {
            var taken = project.AllOf(kind.Type).Select(number.Of).ToHashSet();
            for (highest = number.First - 1; taken.Contains(highest + 1);) highest++;
        }
        return _highest[number] = highest + 1;
    }

    /// <summary>The record with next free numbers of its own, and with nothing else that only one can have, but for what somebody has told.</summary>
    public ProjectRecord Give(ProjectRecord record, Func<string, bool>? isTold = null)
    {
        RecordKind kind = RecordKinds.Of(record);
        foreach (UniqueNumber number in kind.Numbers.Where(n => isTold?.Invoke(n.Field) != true)) record = number.With(record, Next(kind, number));
        return kind.LeftOpen(kind.NumberedAnew(project, record, _taken), isTold);
    }
}
