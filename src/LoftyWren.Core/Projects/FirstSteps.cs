using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.Projects;

/// <summary>A step on the way from an empty project to a room under control.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">What is to be done.</param>
/// <param name="Why">What it is for.</param>
/// <param name="IsDone">Whether the project has it.</param>
public sealed record FirstStep(string Key, string Title, string Why, bool IsDone);

/// <summary>The way from an empty project to a room under control: each step is done once the project shows it.</summary>
public static class FirstSteps
{
    /// <summary>The steps of a project in their order; whether anything of it runs is known elsewhere.</summary>
    public static IReadOnlyList<FirstStep> Of(Project project, bool runs) =>
    [
        new("building", "Add a building with a floor and rooms", "everything else finds its place in them", project.All<Place>().Any(p => p.Kind == PlaceKind.Room)),
        new("points", "Give the rooms equipment and points", "typed, imported from a list, or placed from templates", project.All<Point>().Any()),
        new("controller", "Add a controller", "it reads sensors, runs sequences and drives outputs", project.All<Controller>().Any()),
        new("fit", "Put the points onto its terminals", "“Fit the points” finds each a terminal that suits it", project.All<Fitting>().Any()),
        new("sequence", "Write a sequence", "what is read, how it is decided, what is commanded", project.All<Sequence>().Any(s => s.Commands.Count > 0)),
        new("schedule", "Write a schedule", "when the building is open, and what that drives", project.All<Schedule>().Any(s => s.Drives.Count > 0)),
        new("send", "Send the controller", "to the virtual site first: rehearse before anyone goes there", runs),
    ];
}
