using System.Globalization;
using System.Text;
using LoftyWren.Core.Texts;
using NodaTime.Text;

namespace LoftyWren.Core.Tags;

/// <summary>Scalars in the Zinc form of Project Haystack.</summary>
public static class Zinc
{
    private static readonly OffsetDateTimePattern Moment = OffsetDateTimePattern.CreateWithInvariantCulture("uuuu'-'MM'-'dd'T'HH':'mm':'ss;FFFFFFFFFo<Z+HH:mm>");
    private static readonly LocalTimePattern Time = LocalTimePattern.CreateWithInvariantCulture("HH':'mm':'ss;FFFFFFFFF");

    /// <summary>A scalar as text.</summary>
    public static string Write(TagValue value) => value switch
    {
        MarkerValue => "M",
        NaValue => "NA",
        RemoveValue => "R",
        BoolValue b => b.Value ? "T" : "F",
        NumberValue n => WriteNumber(n),
        TextValue t => Quote(t.Value, '"'),
        UriValue u => Quote(u.Value, '`'),
        RefValue r => r.Called is null ? $"@{r.Id}" : $"@{r.Id} {Quote(r.Called, '"')}",
        SymbolValue s => $"^{s.Value}",
        DateValue d => LocalDatePattern.Iso.Format(d.Value),
        TimeValue t => Time.Format(t.Value),
        MomentValue m => $"{Moment.Format(m.Value)} {m.Zone}",
        CoordValue c => string.Create(CultureInfo.InvariantCulture, $"C({c.Latitude:0.###################},{c.Longitude:0.###################})"),
        XStrValue x => $"{x.Sort}({Quote(x.Value, '"')})",
        _ => throw new ArgumentException($"{value.GetType().Name} is no scalar."),
    };

    /// <summary>The scalar a whole text stands for.</summary>
    /// <exception cref="SyntaxException">It stands for none.</exception>
    public static TagValue Read(string text)
    {
        var reader = new ScalarReader(text);
        TagValue value = reader.Scalar();
        reader.End();
        return value;
    }

    /// <summary>The scalar that begins at a place of a text; the place moves behind it.</summary>
    /// <exception cref="SyntaxException">None begins there.</exception>
    public static TagValue ReadAt(string text, ref int at)
    {
        var reader = new ScalarReader(text) { At = at };
        TagValue value = reader.Scalar();
        at = reader.At;
        return value;
    }

    private static string WriteNumber(NumberValue n)
    {
        string text = double.IsNaN(n.Value) ? "NaN" : double.IsPositiveInfinity(n.Value) ? "INF" : double.IsNegativeInfinity(n.Value) ? "-INF" : n.Value.ToString("R", CultureInfo.InvariantCulture).Replace('E', 'e');
        return text + n.Unit;
    }

    private static string Quote(string text, char quote)
    {
        var result = new StringBuilder().Append(quote);
        foreach (char c in text)
        {
            switch (c)
            {
                case '\n': result.Append("\\n"); break;
                case '\r': result.Append("\\r"); break;
                case '\t': result.Append("\\t"); break;
                case '\\': result.Append("\\\\"); break;
                case '$' when quote == '"': result.Append("\\$"); break;
                default:
                    if (c == quote) result.Append('\\').Append(c);
                    else if (c < 0x20) result.Append(CultureInfo.InvariantCulture, $"\\u{(int)c:x4}");
                    else result.Append(c);
                    break;
            }
        }
        return result.Append(quote).ToString();
    }

    /// <summary>Reads scalars out of a text, for values, grids and filters alike.</summary>
    internal sealed class ScalarReader(string text, bool isFilter = false) : Scanner(text, c => c is ' ' or '\t' || (isFilter && c is '\n' or '\r'))
    {
        public TagValue Scalar()
        {
            Space();
            int from = At;
            switch (Now)
            {
                case '\0': throw new SyntaxException(At, "A value is missing here.");
                case '"': return new TextValue(Quoted('"'));
                case '`': return new UriValue(Quoted('`'));
                case '@': return Reference();
                case '^':
                    At++;
                    return new SymbolValue(While(c => char.IsAsciiLetterOrDigit(c) || c is '_' or '-' or ':' or '.' or '~', "a symbol's name"));
                case '-' when Text.AsSpan(At).StartsWith("-INF"):
                    At += 4;
                    return new NumberValue(double.NegativeInfinity);
            }
            if (char.IsAsciiDigit(Now) || (Now == '-' && char.IsAsciiDigit(Next))) return NumberOrTime();
            string word = While(char.IsAsciiLetterOrDigit, "a value");
            switch (word)
            {
                case "M" when !isFilter: return TagValue.Marker;
                case "R" when !isFilter: return new RemoveValue();
                case "NA": return new NaValue();
                case "T" when !isFilter:
                case "true" when isFilter: return new BoolValue(true);
                case "F" when !isFilter:
                case "false" when isFilter: return new BoolValue(false);
                case "NaN": return new NumberValue(double.NaN);
                case "INF": return new NumberValue(double.PositiveInfinity);
                case "C" when Now == '(': return Coord();
                case var sort when Now == '(' && Next == '"' && char.IsAsciiLetterUpper(sort[0]): return Typed(sort);
            }
            throw new SyntaxException(from, $"‘{word}’ is no value. Write a number with or without a unit, \"text\" in quotes, @reference, a date{(isFilter ? ", true or false" : ", T or F, or M for a marker")}.");
        }

        private RefValue Reference()
        {
            At++;
            string id = While(c => char.IsAsciiLetterOrDigit(c) || c is '_' or '-' or ':' or '.' or '~', "a reference's id");
            int back = At;
            if (!isFilter && Now == ' ' && Next == '"')
            {
                At++;
                return new RefValue(id, Quoted('"'));
            }
            At = back;
            return new RefValue(id);
        }

        private XStrValue Typed(string sort)
        {
            At++;
            string text = Quoted('"');
            if (Now != ')') throw new SyntaxException(At, $"The parenthesis of {sort}(…) is not closed.");
            At++;
            return new XStrValue(sort, text);
        }

        private CoordValue Coord()
        {
            int from = At;
            int end = Text.IndexOf(')', At);
            string[] parts = end < 0 ? [] : Text[(At + 1)..end].Split(',');
            if (parts.Length != 2 || !double.TryParse(parts[0], CultureInfo.InvariantCulture, out double latitude) || !double.TryParse(parts[1], CultureInfo.InvariantCulture, out double longitude) || Math.Abs(latitude) > 90 || Math.Abs(longitude) > 180)
                throw new SyntaxException(from, "A coordinate reads C(latitude,longitude) in degrees.");
            At = end + 1;
            return new CoordValue(latitude, longitude);
        }

        private TagValue NumberOrTime()
        {
            int from = At;
            string run = While(c => char.IsAsciiDigit(c) || c is '-' or ':' or '.' or '+' or 'T' or 'Z', "a number");
            if (run.Length >= 10 && run[4] == '-')
            {
                if (!run.Contains('T'))
                    return LocalDatePattern.Iso.Parse(run) is { Success: true } date ? new DateValue(date.Value) : throw new SyntaxException(from, $"‘{run}’ is no date; write it as 2026-04-14.");
                var moment = Moment.Parse(run);
                if (!moment.Success) throw new SyntaxException(from, $"‘{run}’ is no moment; write it as 2026-04-14T09:30:00+01:00 London.");
                int back = At;
                Space();
                string zone = char.IsAsciiLetterUpper(Now) ? While(c => char.IsAsciiLetterOrDigit(c) || c is '_' or '-' or '+' or '/', "a zone") : "UTC";
                if (zone == "UTC" && At == back) At = back;
                return new MomentValue(moment.Value, zone);
            }
            if (run.Length >= 5 && run[2] == ':')
            {
                var time = Time.Parse(run.Length == 5 ? run + ":00" : run);
                return time.Success ? new TimeValue(time.Value) : throw new SyntaxException(from, $"‘{run}’ is no time of day; write it as 09:30:00.");
            }
            At = from;
            if (Now == '-') At++;
            // Underscores may part digits: 1_000.
            While(char.IsAsciiDigit, "a digit");
            Digits();
            if (Now == '.' && char.IsAsciiDigit(Next))
            {
                At++;
                Digits();
            }
            if (Now is 'e' or 'E' && (char.IsAsciiDigit(Next) || (Next is '+' or '-' && At + 2 < Text.Length && char.IsAsciiDigit(Text[At + 2]))))
            {
                At += 2;
                while (char.IsAsciiDigit(Now)) At++;
            }
            double number = double.Parse(Text[from..At].Replace("_", ""), CultureInfo.InvariantCulture);
            int unitFrom = At;
            while (Now is '%' or '_' or '/' or '$' || (Now > 127 && !char.IsWhiteSpace(Now)) || char.IsAsciiLetter(Now)) At++;
            return new NumberValue(number, At > unitFrom ? Text[unitFrom..At] : null);
        }

        private void Digits()
        {
            while (char.IsAsciiDigit(Now) || (Now == '_' && char.IsAsciiDigit(Next))) At++;
        }

        private string Quoted(char quote)
        {
            int from = At++;
            var result = new StringBuilder();
            while (true)
            {
                if (At >= Text.Length) throw new SyntaxException(from, $"This {(quote == '"' ? "text" : "address")} has no closing {quote}.");
                char c = Text[At++];
                if (c == quote) return result.ToString();
                if (c != '\\')
                {
                    result.Append(c);
                    continue;
                }
                char escaped = At < Text.Length ? Text[At++] : '\0';
                switch (escaped)
                {
                    case 'n': result.Append('\n'); break;
                    case 'r': result.Append('\r'); break;
                    case 't': result.Append('\t'); break;
                    case 'b': result.Append('\b'); break;
                    case 'f': result.Append('\f'); break;
                    case 'u' when At + 4 <= Text.Length && int.TryParse(Text.AsSpan(At, 4), NumberStyles.HexNumber, CultureInfo.InvariantCulture, out int code):
                        result.Append((char)code);
                        At += 4;
                        break;
                    case '\0' or 'u': throw new SyntaxException(At - 1, "This escape is not complete.");
                    default: result.Append(escaped); break;
                }
            }
        }
    }
}
