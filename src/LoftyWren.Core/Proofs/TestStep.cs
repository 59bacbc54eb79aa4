using System.Globalization;
using System.Text.Json.Serialization;
using LoftyWren.Core.Live;

namespace LoftyWren.Core.Proofs;

/// <summary>One step of a test. Each kind says itself in a line of text, which <see cref="TestText"/> reads back, and does itself on the bench.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "do")]
[JsonDerivedType(typeof(NoteStep), "note")]
[JsonDerivedType(typeof(StartStep), "start")]
[JsonDerivedType(typeof(BeginWithStep), "beginWith")]
[JsonDerivedType(typeof(SetStep), "set")]
[JsonDerivedType(typeof(RampStep), "ramp")]
[JsonDerivedType(typeof(FailStep), "fail")]
[JsonDerivedType(typeof(LetGoStep), "letGo")]
[JsonDerivedType(typeof(WaitStep), "wait")]
[JsonDerivedType(typeof(WaitUntilStep), "waitUntil")]
[JsonDerivedType(typeof(ExpectStep), "expect")]
[JsonDerivedType(typeof(CutPowerStep), "cutPower")]
[JsonDerivedType(typeof(GoOnAtStep), "goOnAt")]
public abstract record TestStep
{
    /// <summary>What it sets or looks at; none where it has none, or that has gone.</summary>
    public TestSubject? Subject { get; init; }

    /// <summary>How much site time it takes at most, s, as far as that is said.</summary>
    [JsonIgnore]
    public virtual double Seconds => 0;

    /// <summary>Whether it needs a subject.</summary>
    [JsonIgnore]
    public virtual bool HasSubject => true;

    /// <summary>Whether it sets its subject, which must be a point for it; else it only looks at it.</summary>
    [JsonIgnore]
    public virtual bool Sets => false;

    /// <summary>Whether the story ends with it where what it says does not come true.</summary>
    [JsonIgnore]
    public virtual bool EndsStory => true;

    /// <summary>The step as a line of text.</summary>
    public abstract string Say(SubjectNames names);

    /// <summary>Does it; answers whether what it expects came true (null where it expects nothing), and what there is to say.</summary>
    internal abstract (bool? Passed, string Says) Do(ProofBench bench);

    /// <summary>What is wrong with it in itself.</summary>
    public virtual IEnumerable<string> Wrong()
    {
        if (!(Seconds is >= 0 and <= FunctionTest.LongestSeconds)) yield return $"a step lasts from 0 s to {FunctionTest.LongestSeconds / 86_400:0} d, not {Seconds} s.";
    }

    /// <summary>A length of time in the largest unit in which it is whole.</summary>
    public static string Length(double seconds)
    {
        foreach (var (unit, size) in Units)
        {
            if (seconds >= size && seconds % size == 0) return $"{(seconds / size).ToString(CultureInfo.InvariantCulture)} {unit}";
        }
        return $"{seconds.ToString("R", CultureInfo.InvariantCulture)} s";
    }

    /// <summary>Units of time with their length in s, the longest first.</summary>
    internal static readonly (string Unit, double Seconds)[] Units = [("d", 86_400), ("h", 3600), ("min", 60), ("s", 1)];
}

/// <summary>Words between steps; nothing happens.</summary>
public sealed record NoteStep(string Text) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool HasSubject => false;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"# {Text}";

    /// <inheritdoc/>
    public override IEnumerable<string> Wrong() => Text.Length is 0 or > 200 || Text.Any(char.IsControl) ? ["a note has 1 to 200 characters, in one line."] : [];

    internal override (bool? Passed, string Says) Do(ProofBench bench) => (null, "");
}

/// <summary>When the story begins; only as the first step.</summary>
public sealed record StartStep(TestMoment At) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool HasSubject => false;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"start {At.Say()}";

    /// <inheritdoc/>
    public override IEnumerable<string> Wrong() => At.Wrong();

    internal override (bool? Passed, string Says) Do(ProofBench bench) => bench.Begin(At) is { } problem ? (false, problem) : (null, "");
}

/// <summary>What a point is tied to really is this, and goes on from there by itself; of a sequence alone, its sensor measures this.</summary>
public sealed record BeginWithStep(double Value) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool Sets => true;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"begin with {names.Of(Subject)} at {SubjectNames.Say(names.FormOf(Subject) ?? ValueForm.Number, Value)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        bench.Have(Subject!, Value);
        return (null, "");
    }
}

/// <summary>What comes to the sequence from a point is this from now on: a sensor measures it, an output is held there.</summary>
public sealed record SetStep(double Value) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool Sets => true;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"set {names.Of(Subject)} to {SubjectNames.Say(names.FormOf(Subject) ?? ValueForm.Number, Value)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        bench.Set(Subject!, Value);
        return (null, "");
    }
}

/// <summary>From what it is a point goes to a value in a straight line.</summary>
public sealed record RampStep(double Value, double Over) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool Sets => true;

    /// <inheritdoc/>
    [JsonIgnore]
    public override double Seconds => Over;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"ramp {names.Of(Subject)} to {SubjectNames.Say(names.FormOf(Subject) ?? ValueForm.Number, Value)} over {Length(Over)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        bench.Ramp(Subject!, Value, Over);
        return (null, "");
    }
}

/// <summary>The sensor of a point fails.</summary>
public sealed record FailStep : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool Sets => true;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"fail {names.Of(Subject)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench) => bench.Fail(Subject!) ? (null, "") : (false, "it is commanded, not measured: only what is measured can fail.");
}

/// <summary>A point is no longer set, nor held.</summary>
public sealed record LetGoStep : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool Sets => true;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"let go {names.Of(Subject)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        bench.LetGo(Subject!);
        return (null, "");
    }
}

/// <summary>Time passes.</summary>
public sealed record WaitStep(double For) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override double Seconds => For;

    /// <inheritdoc/>
    [JsonIgnore]
    public override bool HasSubject => false;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"wait {Length(For)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        bench.Pass(For);
        return (null, "");
    }
}

/// <summary>Supply is gone for a time; then the controller starts again with what it remembers.</summary>
public sealed record CutPowerStep(double For) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override double Seconds => For;

    /// <inheritdoc/>
    [JsonIgnore]
    public override bool HasSubject => false;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"cut power for {Length(For)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        bench.CutPower(For);
        return (null, "");
    }
}

/// <summary>Time passes until a moment.</summary>
public sealed record GoOnAtStep(TestMoment At) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool HasSubject => false;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"go on at {At.Say()}";

    /// <inheritdoc/>
    public override IEnumerable<string> Wrong() => At.Wrong();

    internal override (bool? Passed, string Says) Do(ProofBench bench) => bench.GoOnAt(At) is { } problem ? (false, problem) : (null, "");
}

/// <summary>How a value must be.</summary>
public enum TestRelation
{
    /// <summary>Equal; of numbers, as near as they are shown.</summary>
    Is,
    /// <summary>Greater.</summary>
    Above,
    /// <summary>Less.</summary>
    Below,
    /// <summary>From one to another.</summary>
    Between,
    /// <summary>Saying nothing.</summary>
    Released,
    /// <summary>In fault.</summary>
    InFault,
}

/// <summary>What must be true of a value.</summary>
public sealed record TestCondition(TestRelation Relation, double Value = 0, double Upper = 0)
{
    /// <summary>The condition in words, behind the name of what it is about.</summary>
    public string Say(ValueForm form) => Relation switch
    {
        TestRelation.Is => SubjectNames.Say(form, Value),
        TestRelation.Above => $"above {SubjectNames.Say(form, Value)}",
        TestRelation.Below => $"below {SubjectNames.Say(form, Value)}",
        TestRelation.Between => $"between {SubjectNames.Say(form with { Unit = null }, Value)} and {SubjectNames.Say(form, Upper)}",
        TestRelation.Released => "released",
        _ => "in fault",
    };

    /// <summary>Whether a reading meets it.</summary>
    public bool IsMetBy(Status.Reading reading) => Relation switch
    {
        TestRelation.Released => reading.IsReleased,
        TestRelation.InFault => (reading.Status & Status.StatusFlags.Fault) != 0,
        _ when !reading.IsUsable => false,
        TestRelation.Above => reading.Value > Value,
        TestRelation.Below => reading.Value < Value,
        TestRelation.Between => reading.Value >= Value && reading.Value <= Upper,
        _ => Math.Abs(reading.Value - Value) <= 1e-6 * Math.Max(1, Math.Abs(Value)),
    };
}

/// <summary>Time passes until something is true; if it does not become so in time, the story ends there.</summary>
public sealed record WaitUntilStep(TestCondition Condition, double Within) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override double Seconds => Within;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"wait until {names.Of(Subject)} {Condition.Say(names.FormOf(Subject) ?? ValueForm.Number)} within {Length(Within)}";

    internal override (bool? Passed, string Says) Do(ProofBench bench) => bench.Await(Subject!, Condition, Within) is { } after ? (true, $"after {Length(Math.Round(after, 1))}") : (false, $"{bench.Now(Subject!)} all the time");
}

/// <summary>Something must be true: now, or within a time; and stay so for a time.</summary>
public sealed record ExpectStep(TestCondition Condition, double Within = 0, double For = 0) : TestStep
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override bool EndsStory => false;

    /// <inheritdoc/>
    [JsonIgnore]
    public override double Seconds => Within + For;

    /// <inheritdoc/>
    public override string Say(SubjectNames names) => $"expect {names.Of(Subject)} {Condition.Say(names.FormOf(Subject) ?? ValueForm.Number)}{(Within > 0 ? $" within {Length(Within)}" : "")}{(For > 0 ? $" for {Length(For)}" : "")}";

    internal override (bool? Passed, string Says) Do(ProofBench bench)
    {
        if (bench.Await(Subject!, Condition, Within) is not { } after) return (false, Within > 0 ? $"{bench.Now(Subject!)} all the time" : $"it is {bench.Now(Subject!)}");
        string came = Within > 0 ? $"after {Length(Math.Round(after, 1))}" : "";
        if (For <= 0) return (true, came);
        return bench.Keeps(Subject!, Condition, For) is { } broke ? (false, $"it was {bench.Now(Subject!)} after {Length(Math.Round(broke, 1))}") : (true, came);
    }
}
