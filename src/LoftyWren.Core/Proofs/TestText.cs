using LoftyWren.Core.Live;
using LoftyWren.Core.Texts;
using NodaTime;
using NodaTime.Text;

namespace LoftyWren.Core.Proofs;

/// <summary>What cannot be read of a test: on which line (from 1), at which character of it (from 0), and why.</summary>
public sealed record TestProblem(int Line, int At, string Sentence);

/// <summary>
/// Tests as text, a step a line, in words that the client's engineer can read:
/// <code>
/// start Tuesday 08:50
/// set Room temperature to 30 °C
/// expect Extract fan on within 10 s for 5 min
/// ramp Room temperature to 26 °C over 10 min
/// wait until Extract fan off within 15 min
/// cut power for 30 s
/// go on at Wednesday 17:31
/// </code>
/// </summary>
public static class TestText
{
    /// <summary>A kind of step: the word it begins with, an example, and what follows: words of the grammar, and parts in braces, such as <c>{point}</c>, <c>{value}</c>, <c>{condition}</c>, <c>{time}</c>; what may be left out ends with a question mark.</summary>
    public sealed record Form(string Word, string Example, params string[] Parts);

    private static readonly (Form Form, Func<Line, TestStep> Read)[] Kinds =
    [
        (new("start", "start Tuesday 08:50", "{moment}"), l => new StartStep(l.Moment())),
        (new("begin with", "begin with Room temperature at 15 °C", "{point}", "at", "{value}"), BeginWith),
        (new("set", "set Room temperature to 21 °C", "{point}", "to", "{value}"), Set),
        (new("ramp", "ramp Room temperature to 26 °C over 10 min", "{point}", "to", "{value}", "over", "{time}"), Ramp),
        (new("fail", "fail Room temperature", "{point}"), l => new FailStep { Subject = l.ToSet() }),
        (new("let go", "let go Room temperature", "{point}"), l => new LetGoStep { Subject = l.ToSet() }),
        (new("wait until", "wait until Extract fan off within 15 min", "{subject}", "{condition}", "within", "{time}"), WaitUntil),
        (new("wait", "wait 5 min", "{time}"), l => new WaitStep(l.Length())),
        (new("expect", "expect Extract fan on within 10 s for 5 min", "{subject}", "{condition}", "within", "{time?}", "for", "{time?}"), Expect),
        (new("cut power for", "cut power for 30 s", "{time}"), l => new CutPowerStep(l.Length())),
        (new("go on at", "go on at Wednesday 17:31", "{moment}"), l => new GoOnAtStep(l.Moment())),
    ];

    /// <summary>The kinds of step.</summary>
    public static IReadOnlyList<Form> Forms { get; } = [.. Kinds.Select(k => k.Form)];

    /// <summary>A test as text.</summary>
    public static string Write(IEnumerable<TestStep> steps, SubjectNames names) => string.Join('\n', steps.Select(s => s.Say(names)));

    /// <summary>The steps of a text, and what of it cannot be read.</summary>
    public static (IReadOnlyList<TestStep> Steps, IReadOnlyList<TestProblem> Problems) Read(string text, SubjectNames names)
    {
        var steps = new List<TestStep>();
        var problems = new List<TestProblem>();
        string[] lines = text.Split('\n');
        for (int i = 0; i < lines.Length; i++)
        {
            string line = lines[i].TrimEnd('\r', ' ', '\t');
            if (line.Trim().Length == 0) continue;
            try
            {
                TestStep step = ReadLine(new Line(line, names));
                if (step.Wrong().FirstOrDefault() is { } wrong) throw new SyntaxException(0, char.ToUpperInvariant(wrong[0]) + wrong[1..]);
                steps.Add(step);
            }
            catch (SyntaxException e)
            {
                problems.Add(new TestProblem(i + 1, e.At, e.Message));
            }
        }
        return (steps, problems);
    }

    private static TestStep ReadLine(Line line)
    {
        line.Space();
        if (line.Now == '#') return new NoteStep(line.Text[(line.At + 1)..].Trim());
        foreach (var (form, read) in Kinds)
        {
            if (!line.Word(form.Word)) continue;
            TestStep step = read(line);
            line.End();
            return step;
        }
        throw new SyntaxException(line.At, $"A line begins with {string.Join(", ", Forms.Select(f => f.Word))} or #, such as ‘{Forms[2].Example}’.");
    }

    private static BeginWithStep BeginWith(Line line)
    {
        TestSubject subject = line.ToSet();
        line.Need("at");
        return new BeginWithStep(line.Value(subject)) { Subject = subject };
    }

    private static SetStep Set(Line line)
    {
        TestSubject subject = line.ToSet();
        line.Need("to");
        return new SetStep(line.Value(subject)) { Subject = subject };
    }

    private static RampStep Ramp(Line line)
    {
        TestSubject subject = line.ToSet();
        line.Need("to");
        double value = line.Value(subject);
        line.Need("over");
        return new RampStep(value, line.Length()) { Subject = subject };
    }

    private static WaitUntilStep WaitUntil(Line line)
    {
        TestSubject subject = line.Subject();
        TestCondition condition = line.Condition(subject);
        line.Need("within");
        return new WaitUntilStep(condition, line.Length()) { Subject = subject };
    }

    private static ExpectStep Expect(Line line)
    {
        TestSubject subject = line.Subject();
        TestCondition condition = line.Condition(subject);
        return new ExpectStep(condition, line.Word("within") ? line.Length() : 0, line.Word("for") ? line.Length() : 0) { Subject = subject };
    }

    private sealed class Line(string text, SubjectNames names) : PhraseScanner(text)
    {
        public TestSubject Subject()
        {
            Space();
            if (names.At(Text, At) is not var (subject, length))
                throw new SyntaxException(At, $"‘{Rest}’ is none of what this sequence reads, decides or commands. There {(names.All.Any() ? $"are {string.Join(", ", names.All.Take(8).Select(n => n.Name))}{(names.All.Count() > 8 ? " …" : "")}" : "is nothing yet")}.");
            At += length;
            return subject;
        }

        public TestSubject ToSet()
        {
            Space();
            int at = At;
            TestSubject subject = Subject();
            return names.CanBeSet(subject) ? subject : throw new SyntaxException(at, $"‘{names.Of(subject)}’ is a block, which says what follows from its inputs. Set a point that it reads.");
        }

        public double Value(TestSubject subject) => Value(names.FormOf(subject)!);

        public TestCondition Condition(TestSubject subject)
        {
            ValueForm form = names.FormOf(subject)!;
            _ = Word("is");
            if (Word("released")) return new TestCondition(TestRelation.Released);
            if (Word("in fault")) return new TestCondition(TestRelation.InFault);
            if (Word("above")) return new TestCondition(TestRelation.Above, Value(form));
            if (Word("below")) return new TestCondition(TestRelation.Below, Value(form));
            if (!Word("between")) return new TestCondition(TestRelation.Is, Value(form));
            int at = At;
            double low = Value(form);
            Need("and");
            double high = Value(form);
            return low <= high ? new TestCondition(TestRelation.Between, low, high) : throw new SyntaxException(at, $"Nothing is between {low} and {high}: write the lower one first.");
        }

        public TestMoment Moment()
        {
            Space();
            int at = At;
            string day = While(c => c != ' ', "a day or a date");
            IsoDayOfWeek weekday = Enum.TryParse(day, ignoreCase: true, out IsoDayOfWeek named) && named != IsoDayOfWeek.None && !char.IsAsciiDigit(day[0]) ? named : IsoDayOfWeek.None;
            if (weekday == IsoDayOfWeek.None && (!LocalDatePattern.Iso.Parse(day).TryGetValue(default, out LocalDate date) || date.Year is < 1970 or > 2199))
                throw new SyntaxException(at, $"‘{day}’ is neither a day of the week, such as Tuesday, nor a date, such as 2026-04-14.");
            Space();
            int from = At;
            string time = While(c => c != ' ', "a time of day");
            foreach (string pattern in (string[])["HH:mm", "HH:mm:ss"])
            {
                if (LocalTimePattern.CreateWithInvariantCulture(pattern).Parse(time).TryGetValue(default, out LocalTime read))
                    return new TestMoment { Date = weekday == IsoDayOfWeek.None ? day : null, Day = weekday, Seconds = read.TickOfDay / NodaConstants.TicksPerSecond };
            }
            throw new SyntaxException(from, $"‘{time}’ is not a time of day, such as 08:50.");
        }
    }
}
