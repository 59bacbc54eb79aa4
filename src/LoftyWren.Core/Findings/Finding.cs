using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Findings;

/// <summary>How much a finding matters.</summary>
public enum Severity
{
    /// <summary>Worth a look.</summary>
    Low,
    /// <summary>Something will probably not work as meant.</summary>
    Medium,
    /// <summary>Something will not work.</summary>
    High,
}

/// <summary>A change set that would mend a finding, with its label.</summary>
public sealed record Fix(string Label, IReadOnlyList<Edit> Edits);

/// <summary>Something the project's checks want you to see: what, where, why it matters, and a fix where there is one.</summary>
/// <param name="Key">Stable while the finding stands: the check's code, the record and what in it.</param>
/// <param name="Code">The check that found it.</param>
/// <param name="Severity">How much it matters.</param>
/// <param name="RecordId">The record it is about.</param>
/// <param name="What">What is so, in one sentence.</param>
/// <param name="Why">Why that matters.</param>
public sealed record Finding(string Key, string Code, Severity Severity, RecordId RecordId, string What, string Why)
{
    /// <summary>The ways to mend it at one click, the likelier first; as they were when it was checked. Whoever carries one out asks <see cref="FindingsIndex.Afresh"/> first.</summary>
    public IReadOnlyList<Fix> Fixes { get; init; } = [];

    /// <summary>The project revision it has stood since; for those already there when the project was opened, that of the record it is on.</summary>
    public long Since { get; init; }

    /// <summary>Whether it is about what happens on the site, not about the design: it goes by itself, and cannot be silenced.</summary>
    public bool IsOfSite { get; init; }

    /// <summary>Who says why it may stand, or null.</summary>
    public Silence? Silence { get; init; }
}
