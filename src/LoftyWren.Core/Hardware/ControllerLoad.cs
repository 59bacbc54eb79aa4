using LoftyWren.Core.Derivation;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Hardware;

/// <summary>What the sequences of a controller calculate, against what its model can: each block, line and claim is one operation of each scan.</summary>
/// <param name="Operations">Operations a second, all sequences together at their scan periods.</param>
/// <param name="Most">How many a second the model is good for; 0 where nobody has said.</param>
/// <param name="Name">The controller.</param>
public sealed record ControllerLoad(long Operations, int Most, string Name)
{
    /// <summary>From which share of what it can a controller is said to be near it.</summary>
    public const double Near = 0.8;

    /// <summary>The share of what it can, 0 where nobody has said how much that is.</summary>
    public double Share => Most > 0 ? (double)Operations / Most : 0;

    /// <summary>How much that is, in words, where it is near what the model can or beyond; else null.</summary>
    public string? Much => Share < Near ? null : FormattableString.Invariant($"Its sequences take {Operations:# ##0} operations a second and its model is good for {Most:# ##0}. Scan the slow ones less often, or move some to another controller.");

    /// <summary>Operations a second that sequences take.</summary>
    public static SumSort OperationCount { get; } = new("operations", "operations a second");

    /// <summary>The load of a controller; null when its model is not in the catalogue.</summary>
    public static ControllerLoad? Of(Project project, Controller controller) => Catalogue.Find(project, controller.ModelId) is { } model ? new ControllerLoad(project.Sum(controller.Id, OperationCount), model.OperationsPerSecond, controller.Name) : null;
}
