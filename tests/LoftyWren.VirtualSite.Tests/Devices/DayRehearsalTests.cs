using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.VirtualSite.Devices;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>Another program beside the one that runs, over a day.</summary>
public class DayRehearsalTests
{
    private static Site Up()
    {
        Site site = Building.Up(Project(), At(2026, 4, 15, 10, 0));
        site.RunUntil(At(2026, 4, 15, 11, 17));
        return site;
    }

    private static DayRehearsal Day(Site site, Project with)
    {
        var day = new DayRehearsal(SiteSnapshot.Of(site), Controller, ControllerImageBuilder.KindKey, Building.Image(with));
        day.Run(24 * 60);
        return day;
    }

    [Fact]
    public void The_same_program_differs_in_nothing_and_the_site_itself_stays_as_it_was()
    {
        Site site = Up();
        string before = site.Picture();
        DayRehearsal day = Day(site, Project());
        Assert.Equal((1440, null), (day.Minutes, day.Failure));
        Assert.Empty(day.Result);
        Assert.Equal(before, site.Picture());
    }

    [Fact]
    public void A_copy_goes_on_as_the_site_does()
    {
        Site site = Up(), copy = SiteSnapshot.Of(site).Build();
        site.RunUntil(site.Now + 3_600_000);
        copy.RunUntil(copy.Now + 3_600_000);
        Assert.Equal(site.Picture(), copy.Picture());
    }

    [Fact]
    public void Another_opening_hour_shows_for_as_long_as_it_is_another()
    {
        Site site = Up();
        Project now = Project();
        var hours = now.Find<Core.Schedules.Schedule>(Hours)!;
        // Closed from 12:00 instead of 17:30: the fan is off for five and a half hours more, and nothing else drives it in this weather.
        Project other = Accept(now, hours with { Week = [.. hours.Week.Select(g => g with { Spans = [.. g.Spans.Select(s => s with { To = "12:00" })] })] });
        PointDay fan = Day(site, other).Result.Single(d => d.PointId == FanCommand);
        Assert.InRange(fan.Minutes, 329, 331);
        Assert.Equal(At(2026, 4, 15, 12, 0) / 60_000, fan.FirstAt / 60_000, 1.0);
        Assert.Equal((1.0, 1.0, 0.0), (fan.Most, fan.Before!.Value.Value, fan.After!.Value.Value));
        Assert.Equal(330 / 1440.0, fan.MeanBefore!.Value - fan.MeanAfter!.Value, 0.002);
    }

    [Fact]
    public void A_setpoint_differs_all_day_and_what_cannot_run_is_refused_before()
    {
        Site site = Up();
        Project other = Accept(Project(), Project().Find<Point>(Limit)! with { Fallback = 27 });
        PointDay limit = Day(site, other).Result.Single(d => d.PointId == Limit);
        Assert.Equal((1440, 2.0), (limit.Minutes, limit.Most));
        Assert.Contains("cannot run", Assert.Throws<InvalidOperationException>(() => new DayRehearsal(SiteSnapshot.Of(site), Controller, ControllerImageBuilder.KindKey, "{}"u8.ToArray())).Message, StringComparison.Ordinal);
    }
}
