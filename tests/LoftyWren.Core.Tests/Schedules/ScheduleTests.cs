using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using NodaTime;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Schedules;

public class ScheduleTests
{
    private static readonly Project House = KilnRoom.Project();
    private static readonly Schedule Open = House.Find<Schedule>(Hours)!;

    private static Schedule On(IsoDayOfWeek day, params (string From, string To, double Value)[] spans) =>
        Open with { Week = [new DayGroup { Days = [day], Spans = [.. spans.Select(s => new Span { From = s.From, To = s.To, Value = s.Value })] }] };

    [Fact]
    public void Its_values_have_names_or_a_unit()
    {
        Refuses(House, Open with { StateTexts = ["open"] }, "stateTexts", "‘Opening hours’ needs the names of its states, such as “closed · open”.");
        Refuses(House, Open with { Kind = PointKind.Analog, StateTexts = [], Unit = "furlong", Drives = [], Week = [] }, "unit", "‘furlong’ is not a known unit.");
        Refuses(House, Open with { Default = 2 }, "default", "‘Opening hours’ cannot have 2 as its default.");
        Refuses(House, Open with { PlaceId = new("gone") }, "placeId", "The schedule ‘Opening hours’ refers to a place that is not in the project (gone).");
    }

    [Fact]
    public void A_day_is_in_one_group_and_its_stretches_follow_one_another()
    {
        DayGroup monday = new() { Days = [IsoDayOfWeek.Monday], Spans = [] };
        Refuses(House, Open with { Week = [monday, monday] }, "week", "Monday is in two day groups. Leave it in one.");
        Refuses(House, Open with { Week = [monday with { Days = [IsoDayOfWeek.None] }] }, "week", "A day group holds something that is no day of the week.");
        Refuses(House, On(IsoDayOfWeek.Monday, ("9 o'clock", "17:00", 1)), "week", "Monday: ‘9 o'clock–17:00’ is not a stretch of a day. Times go from 00:00 to 24:00.");
        Refuses(House, On(IsoDayOfWeek.Monday, ("22:00", "06:00", 1)), "week", "Monday: 22:00–06:00 ends before it begins. To run past midnight, end at 24:00 and go on the next day from 00:00.");
        Refuses(House, On(IsoDayOfWeek.Monday, ("09:00", "12:00", 1), ("11:59", "17:00", 1)), "week", "Monday: 11:59–17:00 overlaps the stretch before it.");
        Refuses(House, On(IsoDayOfWeek.Monday, ("09:00", "12:00", 3)), "week", "Monday: 3 is not a value of ‘Opening hours’.");
        Refuses(House, On(IsoDayOfWeek.Monday, [.. Enumerable.Range(0, 101).Select(i => ($"{i / 6:00}:{i % 6 * 10:00}", $"{i / 6:00}:{(i % 6 * 10) + 5:00}", 1.0))]), "week", "Monday: a day has at most 100 stretches.");
        // Touching is not overlapping, and midnight is an end.
        Assert.Equal(2, Accept(House, On(IsoDayOfWeek.Monday, ("00:00", "12:00", 1), ("12:00", "24:00", 0))).Find<Schedule>(Hours)!.SpansOf(IsoDayOfWeek.Monday).Count);
    }

    [Fact]
    public void An_exception_has_a_name_and_dates_in_order()
    {
        ExceptionDates one = new() { Name = "Stocktake", From = "2026-04-19", Spans = [] };
        Schedule With(params ExceptionDates[] exceptions) => Open with { Exceptions = exceptions };
        Refuses(House, With(one with { Name = " " }), "exceptions", "An exception needs a name, such as “public holiday”.");
        Refuses(House, With(one with { From = "19.4.2026" }), "exceptions", "‘Stocktake’: ‘19.4.2026’ is not a date. Write 2026-04-16.");
        Refuses(House, With(one with { Through = "2026-13-01" }), "exceptions", "‘Stocktake’: ‘2026-04-19–2026-13-01’ is not a date. Write 2026-04-16.");
        Refuses(House, With(one with { Through = "2026-04-18" }), "exceptions", "‘Stocktake’ ends (2026-04-18) before it begins (2026-04-19).");
        Refuses(House, With([.. Enumerable.Repeat(one, 1001)]), "exceptions", "A schedule has at most 1000 exceptions.");
    }

    [Fact]
    public void It_drives_outputs_of_its_own_kind_and_unit_at_free_priorities()
    {
        Schedule Driving(RecordId point, int priority = 15) => Open with { Drives = [new Drive(point, priority)] };
        Refuses(House, Driving(FanCommand, 8), "drives", "A schedule cannot claim at priority 8. Use 1 to 16 but not 8, which belongs to people.");
        Refuses(House, Driving(FanCommand, 0), "drives", "A schedule cannot claim at priority 0. Use 1 to 16 but not 8, which belongs to people.");
        Refuses(House, Driving(new("gone")), "drives", "The schedule ‘Opening hours’ refers to a point that is not in the project (gone).");
        Refuses(House, Driving(Temperature), "drives", "‘Room temperature’ is a sensor; it cannot be commanded.");
        Refuses(House, Driving(Limit), "drives", "‘High limit’ is analog and ‘Opening hours’ gives binary values.");
        Schedule warmth = new() { Id = new("warmth"), Name = "Warmth", PlaceId = Site, Kind = PointKind.Analog, Unit = "%RH", Default = 20, Drives = [new Drive(Limit, 14)] };
        Refuses(House, warmth, "drives", "‘High limit’ is in °C and ‘Warmth’ in %RH. Use one unit.");
        Refuses(House, Driving(FanCommand, 10), "drives", "Priority 10 of this output is already claimed by ‘Kiln room extract’. Choose a free priority.");
    }
}
