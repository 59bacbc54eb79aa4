using LoftyWren.Core.Derivation;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Hardware;

/// <summary>What a controller's memory has to hold, against what its model has room for: the one rule that refusals, findings and fitting ask.</summary>
/// <param name="Values">Points without a terminal.</param>
/// <param name="MostValues">How many of them the model holds.</param>
/// <param name="Samples">Trend samples of all logs on its points.</param>
/// <param name="MostSamples">How many of them the model holds.</param>
/// <param name="Name">The controller.</param>
public sealed record ControllerMemory(int Values, int MostValues, long Samples, int MostSamples, string Name)
{
    /// <summary>Why there are too many values, or null.</summary>
    public string? ValuesOver => Values <= MostValues ? null : $"{Name} has memory for {MostValues} values and would have {Values}. Put some on another controller.";

    /// <summary>Why there are too many trend samples, or null.</summary>
    public string? SamplesOver => Samples <= MostSamples ? null : FormattableString.Invariant($"{Name} has memory for {MostSamples:# ##0} trend samples and its logs ask for {Samples:# ##0}. Make buffers smaller, or log elsewhere.");

    /// <summary>Values in a controller's memory.</summary>
    public static SumSort ValueCount { get; } = new("values in memory", "values");

    /// <summary>Samples that logs keep: of a point, and of the controller that it lives on.</summary>
    public static SumSort SampleCount { get; } = new("trend samples", "samples");

    /// <summary>What a controller has to hold; null when its model is not in the catalogue.</summary>
    public static ControllerMemory? Of(Project project, Controller controller) => Catalogue.Find(project, controller.ModelId) is { } model
        ? new ControllerMemory((int)project.Sum(controller.Id, ValueCount), model.Values, project.Sum(controller.Id, SampleCount), model.TrendSamples, controller.Name) : null;
}
