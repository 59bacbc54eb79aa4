using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Names;

/// <summary>Which letters a name is written in.</summary>
public enum LetterCase
{
    /// <summary>As whoever wrote it chose.</summary>
    AsWritten,
    /// <summary>CAPITALS.</summary>
    Upper,
    /// <summary>small letters.</summary>
    Lower,
}

/// <summary>Within what a name may stand only once. That siblings have names of their own holds always.</summary>
public enum NameScope
{
    /// <summary>Siblings only.</summary>
    Siblings,
    /// <summary>The room it is in.</summary>
    Room,
    /// <summary>The floor it is on.</summary>
    Floor,
    /// <summary>The building it is in.</summary>
    Building,
    /// <summary>The whole project.</summary>
    Project,
}

/// <summary>How the records of one kind are named.</summary>
public sealed record NamingRule
{
    /// <summary>The kind of record, one of <see cref="NamingConvention.Kinds"/>.</summary>
    public required string For { get; init; }

    /// <summary>Text and tokens; see <see cref="NamePattern"/>.</summary>
    public required string Pattern { get; init; }

    /// <summary>What a name may be made of, such as <c>letters digits space - .</c>; see <see cref="NameLetters"/>. None: anything.</summary>
    public string? Letters { get; init; }

    /// <summary>The most characters a name may have; none for no limit of its own.</summary>
    public int? Longest { get; init; }

    /// <summary>Capitals, small letters or either.</summary>
    public LetterCase Case { get; init; }

    /// <summary>Within what a name may stand only once.</summary>
    public NameScope Unique { get; init; }
}

/// <summary>How this project names its records, what it shortens how, and which words are its own. A project has at most one.</summary>
public sealed record NamingConvention : ProjectRecord
{
    /// <summary>The rule for the names that networks show for points; derived, never written.</summary>
    public const string Network = "network name";

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<NamingConvention> AsKind { get; } = new("namingConvention") { Nouns = [new("naming convention", "naming conventions")], IsSpelled = false };

    /// <summary>The words for records that can have a rule.</summary>
    public static IReadOnlyList<string> Kinds => [.. RecordKinds.Nouns.Where(n => n.NameTokens is not null).Select(n => n.Noun), Network];

    /// <summary>The key that only the one convention holds.</summary>
    public const string Key = "naming-convention";

    /// <summary>The rules, one a kind at most.</summary>
    public IReadOnlyList<NamingRule> Rules { get; init; } = [];

    /// <summary>What is shortened how, such as <c>temperature</c> to <c>temp</c>; letter case is ignored.</summary>
    [Most(80, Members = 5000)]
    public IReadOnlyDictionary<string, string> Abbreviations { get; init; } = new Dictionary<string, string>();

    /// <summary>Words that the word list lacks and this project means.</summary>
    [Most(80, Members = 20_000)]
    public IReadOnlyList<string> Words { get; init; } = [];

    /// <summary>Whether words in names and descriptions are checked; turn it off where they are not English.</summary>
    public bool ChecksSpelling { get; init; } = true;

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    /// <summary>The convention to begin with: it asks for nothing.</summary>
    public static NamingConvention Empty { get; } = new() { Id = new("naming-convention"), Name = "Naming convention" };

    /// <summary>Rules and abbreviations that many projects begin with, to be taken as they are or changed.</summary>
    public static NamingConvention Common { get; } = Empty with
    {
        Rules =
        [
            new() { For = "room", Pattern = "{name}", Longest = 40 },
            new() { For = "equipment", Pattern = "{name}", Longest = 40, Unique = NameScope.Room },
            new() { For = "point", Pattern = "{name}", Longest = 40 },
            new() { For = "controller", Pattern = "{building}-C{n}", Unique = NameScope.Project },
            new() { For = Network, Pattern = "{building}.{floor}.{short}.{equipment}.{name}", Letters = "letters digits . -", Longest = 64, Case = LetterCase.Upper, Unique = NameScope.Project },
        ],
        Abbreviations = new Dictionary<string, string>
        {
            ["temperature"] = "temp",
            ["setpoint"] = "SP",
            ["humidity"] = "RH",
            ["command"] = "cmd",
            ["supply"] = "SUP",
            ["extract"] = "EXT",
            ["air handler"] = "AHU",
            ["fan-coil"] = "FCU",
            ["Ground floor"] = "0",
            ["First floor"] = "1",
        },
    };

    /// <summary>The convention of a project, or null.</summary>
    public static NamingConvention? Of(Project project) => project.Find<NamingConvention>(project.Holder(Key));

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(Key, "name", "This project has a naming convention already. Change that one.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        foreach (var twice in Rules.GroupBy(r => r.For).Where(g => g.Count() > 1)) yield return new Refusal(Id, "rules", $"There are two rules for the names of {twice.Key}. Keep one.");
        foreach (NamingRule rule in Rules)
        {
            if (!Kinds.Contains(rule.For)) yield return new Refusal(Id, "rules", $"‘{rule.For}’ is not a kind of record with names. Use one of: {string.Join(", ", Kinds)}.");
            else if (NamePattern.Refuse(rule) is { } pattern) yield return new Refusal(Id, "rules", $"The pattern for {rule.For}: {pattern}");
            if (rule.Longest is not null and not (>= 3 and <= 255)) yield return new Refusal(Id, "rules", $"The longest name of {rule.For} is {rule.Longest}; give 3 to 255.");
            if (NameLetters.Refuse(rule.Letters) is { } letters) yield return new Refusal(Id, "rules", $"The letters for {rule.For}: {letters}");
        }
        if (Abbreviations.Count > 2000 || Words.Count > 20_000) yield return new Refusal(Id, "abbreviations", "At most 2000 abbreviations and 20 000 words.");
        foreach (var (word, shorter) in Abbreviations)
        {
            if (string.IsNullOrWhiteSpace(word) || string.IsNullOrWhiteSpace(shorter) || shorter.Length >= word.Length) yield return new Refusal(Id, "abbreviations", $"‘{word}’ to ‘{shorter}’ shortens nothing. Give a word and something shorter.");
        }
        if (Abbreviations.Keys.GroupBy(w => w, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Count() > 1) is { } same) yield return new Refusal(Id, "abbreviations", $"‘{same.Key}’ is shortened in two ways. Keep one.");
    }
}
