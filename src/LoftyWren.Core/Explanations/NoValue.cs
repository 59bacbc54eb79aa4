using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Explanations;

/// <summary>Why a point of the design has no value on the site at all: where on the way from drawing to building it stopped.</summary>
public static class NoValue
{
    /// <summary>
    /// Explains by the design and by what is installed. <paramref name="installed"/> answers whether a controller runs anything,
    /// and whether its running image knows the point.
    /// </summary>
    public static Because Explain(Project project, Point point, Func<RecordId, (bool Runs, bool KnowsPoint)> installed)
    {
        if (project.BindingOf(point.Id) is not { } binding)
        {
            string what = point.Role == PointRole.Sensor ? "is on no terminal" : "is on no terminal and in no controller's memory";
            return Because.Of($"{point.Name} has no value: it {what}, so no controller reads or writes it.", [point.Id],
                [Because.Of("Put it onto a terminal on the panel page, or use “Fit the points”.", weight: Weight.Note)]);
        }
        string controller = project.Find(binding.HostId)?.Name ?? "its controller";
        var (runs, knows) = installed(binding.HostId);
        if (!runs)
        {
            return Because.Of($"{point.Name} has no value: {controller} runs nothing yet.", [point.Id, binding.HostId],
                [Because.Of($"Review and send {controller}.", weight: Weight.Note)]);
        }
        return knows
            ? Because.Of($"{point.Name} has no value yet: {controller} has not scanned since it was sent. Let the site clock run.", [point.Id, binding.HostId])
            : Because.Of($"{point.Name} has no value: it is on {controller} {binding.Where} in the design, but the program that runs there does not know it.", [point.Id, binding.HostId],
                [Because.Of($"Review and send {controller}; the design is ahead of it.", weight: Weight.Note)]);
    }

    /// <summary>Why an alarm of the design is not watched on the site.</summary>
    public static Because ExplainAlarm(Project project, Alarms.EventRule rule, Func<RecordId, (bool Runs, bool KnowsPoint)> installed)
    {
        Because? point = project.Find<Point>(rule.PointId) is { } watched ? Explain(project, watched, installed) : null;
        bool fitted = project.BindingOf(rule.PointId) is not null;
        return Because.Of($"‘{rule.Name}’ is not watched on the site{(fitted ? ": the program that runs there does not hold it yet. Review and send its controller." : ".")}", [rule.Id], fitted || point is null ? [] : [point]);
    }
}
