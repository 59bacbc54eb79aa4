using LoftyWren.Core.Explanations;
using LoftyWren.Core.Live;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using NodaTime;

namespace LoftyWren.Core.Proofs;

/// <summary>What a test is lived against.</summary>
public enum TestGround
{
    /// <summary>The sequence alone: whatever comes to it the test says.</summary>
    Alone,
    /// <summary>Its equipment and the rooms that it serves, as a plant that answers.</summary>
    Plant,
    /// <summary>A copy of the installed site as it stands: what runs there, over its wires and networks.</summary>
    Site,
}

/// <summary>
/// What a story is lived on. Time stands still until <see cref="GoTo"/>; whatever is set between is there at the next scan.
/// The same calls always come to the same.
/// </summary>
public interface ITestStand
{
    /// <summary>The zone of its clock.</summary>
    DateTimeZone Zone { get; }

    /// <summary>The moment that it stands at, ms of site time; null where it begins wherever it is told to.</summary>
    long? Stands { get; }

    /// <summary>When something happens next by itself, ms of site time.</summary>
    long NextDue { get; }

    /// <summary>Counts how often what can be watched has become another.</summary>
    long Turns => 0;

    /// <summary>Begins at a moment, where it can begin anywhere.</summary>
    void Begin(long at);

    /// <summary>Whether a point is commanded, so that it is held rather than measured.</summary>
    bool IsCommanded(RecordId point);

    /// <summary>A sensor measures this from now on, or has failed; an output is held.</summary>
    /// <exception cref="InvalidOperationException">It cannot be; the message says why.</exception>
    void Give(RecordId point, PinValue value);

    /// <summary>What a point is tied to really is this now, and goes on from there; where nothing is tied, its sensor measures this.</summary>
    /// <exception cref="InvalidOperationException">It cannot be; the message says why.</exception>
    void Have(RecordId point, double value);

    /// <summary>A sensor follows its plant again, where it has one; an output is held no more.</summary>
    void LetGo(RecordId point);

    /// <summary>What a point is, or was given.</summary>
    Reading Present(RecordId point);

    /// <summary>Lives all that happens up to a moment, that included.</summary>
    void GoTo(long now);

    /// <summary>The supply is gone for so many ms; then all starts again with what it remembers.</summary>
    void CutPower(long milliseconds);

    /// <summary>A value that can be looked at, or null when it is not here.</summary>
    ILiveSource? Watch(TestSubject subject);

    /// <summary>Why a point is as it is.</summary>
    Because? Explain(RecordId point);
}

/// <summary>Makes what stories are lived on.</summary>
public interface ITestStands
{
    /// <summary>What a test is lived on; null for the sequence alone.</summary>
    /// <exception cref="InvalidOperationException">There is none such; the message says why.</exception>
    ITestStand? For(Project project, Sequence sequence, FunctionTest test);

    /// <summary>What is beside the sequence and its points that the outcome of a test rests on, as one hash; empty where there is nothing.</summary>
    string RestsOn(Project project, Sequence sequence, FunctionTest test);
}

/// <summary>Equipment and rooms on the bench, tied to points.</summary>
public interface IBenchPlant
{
    /// <summary>Stands at a moment, ms of site time.</summary>
    void Begin(long at);

    /// <summary>Has what a point is tied to be this; false where it is tied to nothing that is measured.</summary>
    bool Have(RecordId point, double value);

    /// <summary>Moves on to a moment: what is commanded is asked for, what is measured told, both in the units of the points.</summary>
    void GoTo(long now, Func<RecordId, PinValue> commanded, Action<RecordId, double> measured);
}
