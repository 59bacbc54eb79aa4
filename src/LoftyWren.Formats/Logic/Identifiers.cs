using System.Globalization;
using System.Text;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;

namespace LoftyWren.Formats.Logic;

/// <summary>Names of one scope as IEC 61131-3 has them (6.1.2): letters, digits and single underscores, each once whatever its capitals, none of the words that the language keeps.</summary>
internal sealed class NameScope
{
    /// <summary>What the names of our own types begin with; no other name does.</summary>
    public const string Own = "LW_";

    /// <summary>Keywords, elementary types, standard functions and standard function blocks (IEC 61131-3, tables 4, 10 and 22 to 46): no compiler is asked to tell a variable from them.</summary>
    public static IReadOnlySet<string> Reserved { get; } = new HashSet<string>(
        """
        ABSTRACT ACTION AND ARRAY AT BY CASE CLASS CONFIGURATION CONSTANT CONTINUE DO ELSE ELSIF END_ACTION END_CASE END_CLASS END_CONFIGURATION
        END_FOR END_FUNCTION END_FUNCTION_BLOCK END_IF END_INTERFACE END_METHOD END_NAMESPACE END_PROGRAM END_PROPERTY END_REPEAT END_RESOURCE
        END_STEP END_STRUCT END_TRANSITION END_TYPE END_UNION END_VAR END_WHILE EN ENO EXIT EXTENDS FALSE FINAL FOR FROM FUNCTION FUNCTION_BLOCK F_EDGE
        GET IF IMPLEMENTS INITIAL_STEP INTERFACE INTERNAL INTERVAL METHOD MOD NAMESPACE NON_RETAIN NOT NULL OF ON OR OVERLAP OVERRIDE PRIORITY PRIVATE
        PROGRAM PROPERTY PROTECTED PUBLIC READ_ONLY READ_WRITE REF REF_TO REPEAT RESOURCE RETAIN RETURN R_EDGE SET SINGLE STEP STRUCT SUPER TASK THEN THIS TO
        TRANSITION TRUE TYPE UNION UNTIL USING VAR VAR_ACCESS VAR_CONFIG VAR_EXTERNAL VAR_GLOBAL VAR_INPUT VAR_IN_OUT VAR_OUTPUT VAR_TEMP WHILE WITH XOR
        BOOL BYTE WORD DWORD LWORD SINT INT DINT LINT USINT UINT UDINT ULINT REAL LREAL TIME LTIME DATE LDATE TIME_OF_DAY TOD LTOD LTIME_OF_DAY
        DATE_AND_TIME DT LDT LDATE_AND_TIME STRING WSTRING CHAR WCHAR ANY ANY_BIT ANY_CHAR ANY_CHARS ANY_DATE ANY_DERIVED ANY_DURATION ANY_ELEMENTARY ANY_INT
        ANY_MAGNITUDE ANY_NUM ANY_REAL ANY_SIGNED ANY_STRING ANY_UNSIGNED
        ABS SQRT LN LOG EXP SIN COS TAN ASIN ACOS ATAN ATAN2 ADD SUB MUL DIV EXPT MOVE SHL SHR ROR ROL SEL MAX MIN LIMIT MUX GT GE EQ LE LT NE LEN LEFT
        RIGHT MID CONCAT INSERT DELETE REPLACE FIND TRUNC ROUND CONCAT_DATE CONCAT_TOD CONCAT_DT SPLIT_DATE SPLIT_TOD SPLIT_DT DAY_OF_WEEK IS_VALID
        IS_VALID_BCD VALID LOWER_BOUND UPPER_BOUND SR RS R_TRIG F_TRIG CTU CTD CTUD TP TON TOF RTC SEMA
        """.Split((char[])[' ', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries), StringComparer.OrdinalIgnoreCase);

    private readonly HashSet<string> _taken = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>An identifier that nothing else in the scope has, of words.</summary>
    public string Fresh(string words) => Free(Plain(words));

    /// <summary>The name of a type of ours that no other has, of words.</summary>
    public string FreshType(string words) => Free(Own + Joined(words));

    private string Free(string wanted)
    {
        string free = wanted;
        for (int n = 2; !_taken.Add(free); n++) free = $"{wanted}_{n}";
        return free;
    }

    /// <summary>Words as an identifier: of anything that is no letter or digit one underscore; it begins with a letter, is no word of the language and none of our own types.</summary>
    public static string Plain(string words)
    {
        string plain = Joined(words);
        if (plain.Length == 0 || char.IsAsciiDigit(plain[0]) || plain.StartsWith(Own, StringComparison.OrdinalIgnoreCase)) plain = $"V_{plain}".TrimEnd('_');
        return Reserved.Contains(plain) ? $"{plain}_v" : plain;
    }

    private static string Joined(string words)
    {
        string letters = string.Concat(words.Normalize(NormalizationForm.FormKD).Where(c => char.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark).Select(c => char.IsAsciiLetterOrDigit(c) ? c : '_'));
        return string.Join('_', letters.Split('_', StringSplitOptions.RemoveEmptyEntries));
    }

    /// <summary>The name of a pin or setting of ours there, always the same: in capitals, with underscores for hyphens; what that makes no identifier of is told by the codes of its letters.</summary>
    public static string OfPin(string ours)
    {
        string name = ours.ToUpperInvariant().Replace('-', '_');
        if (Reserved.Contains(name)) return $"{name}_V";
        // Endings and beginnings that are given here are nobody else's.
        bool isGiven = name.StartsWith("H_", StringComparison.Ordinal) || ((string[])["_V", "_S", "_OUT", "_ACTIVE"]).Any(e => name.EndsWith(e, StringComparison.Ordinal));
        bool isPlain = !isGiven && name.Length > 0 && char.IsAsciiLetter(name[0]) && name[^1] != '_' && !name.Contains("__", StringComparison.Ordinal) && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_');
        return isPlain ? name : $"H_{Convert.ToHexString(Encoding.UTF8.GetBytes(ours))}";
    }

    /// <summary>Words that can stand in a comment.</summary>
    public static string Comment(string words) => string.Concat(words.Select(c => char.IsControl(c) ? ' ' : c)).Replace("*)", "* )", StringComparison.Ordinal).Replace("(*", "( *", StringComparison.Ordinal) is var text && text.EndsWith('*') ? text + " " : text;
}

/// <summary>The names of what a program reads and commands, made of the names that the ledger has.</summary>
internal sealed class Identifiers
{
    private readonly Dictionary<Source, string> _of = [];
    private readonly Dictionary<string, Source> _named = new(StringComparer.OrdinalIgnoreCase);
    private readonly LedgerNames _names;

    public Identifiers(Project project, Sequence sequence)
    {
        _names = new LedgerNames(project, sequence);
        foreach (var (name, source) in _names.All.Where(a => a.Source is not BlockSource)) Add(source, name);
        Program = Scope.Fresh(sequence.Name);
    }

    /// <summary>All names of the program.</summary>
    public NameScope Scope { get; } = new();

    /// <summary>The name of the program itself.</summary>
    public string Program { get; }

    /// <summary>What a point or a schedule is called in the ledger.</summary>
    public string Words(Source source) => _names.Of(source);

    /// <summary>The identifier of a point or a schedule.</summary>
    public string Of(Source source) => _of.TryGetValue(source, out string? known) ? known : Add(source, _names.Of(source));

    /// <summary>What an identifier stands for, or null.</summary>
    public Source? Named(string identifier) => _named.GetValueOrDefault(identifier.Trim());

    private string Add(Source source, string name)
    {
        string identifier = Scope.Fresh(name);
        _of[source] = identifier;
        _named[identifier] = source;
        return identifier;
    }
}
