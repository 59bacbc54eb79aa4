using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Names;

public class SpellingTests
{
    private static readonly Spelling English = Spelling.Of(KilnRoom.Project())!;

    [Theory]
    [InlineData("Room temprature", "temprature", "temperature")]
    [InlineData("Presense in the store", "Presense", "presence")]
    [InlineData("Suppyl fan", "Suppyl", "supply")]
    [InlineData("Extractt", "Extractt", "extract")]
    [InlineData("Dampr position", "Dampr", "damper")]
    [InlineData("Roomtemperature", "Roomtemperature", "room temperature")]
    [InlineData("Xqzzzt", "Xqzzzt", null)]
    public void A_word_no_list_knows_is_found_with_the_nearest_that_is(string text, string word, string? suggestion)
    {
        UnknownWord unknown = Assert.Single(English.Unknown(text));
        Assert.Equal((word, text.IndexOf(word, StringComparison.Ordinal), suggestion), (unknown.Word, unknown.At, unknown.Suggestion));
    }

    [Theory]
    [InlineData("Supply air temperature setpoint")]
    [InlineData("FCU-12 valve CO₂ kWh m³/h")]
    [InlineData("KH-C1 UI7 RO1")]
    [InlineData("Humidistat of the calorifier, colour and color")]
    [InlineData("Saltmarsh yard meter")]
    [InlineData("Potter's wheel no. 2b")]
    public void Designations_units_trade_words_and_the_names_of_the_site_are_no_mistakes(string text) => Assert.Empty(English.Unknown(text));

    [Fact]
    public void A_finding_offers_the_likely_word_and_the_projects_own_words()
    {
        Project project = Put(KilnRoom.Project(), Edit.Of(KilnRoom.Project().Find<Point>(Temperature)! with { Name = "Room temprature", Description = "Beside the saggar shelf" }));
        var findings = FindingsIndex.Full(project).All.Where(f => f.Code == "spelling").ToList();
        Assert.Equal(["description|saggar", "name|temprature"], findings.Select(f => f.Key.Split('|', 3)[2]));
        Assert.All(findings, f => Assert.Equal(Severity.Low, f.Severity));
        Project right = Put(project, [.. findings[1].Fixes[0].Edits]);
        Assert.Equal("Room temperature", right.Find(Temperature)!.Name);
        Project known = Put(right, [.. findings[0].Fixes[^1].Edits]);
        Assert.Equal("Add ‘saggar’ to the project's words", findings[0].Fixes[^1].Label);
        Assert.Empty(FindingsIndex.Full(known).All);
        Assert.Empty(FindingsIndex.Full(project).After(project, known, [Temperature, NamingConvention.Empty.Id]).All);
    }

    [Fact]
    public void A_project_in_another_language_turns_it_off()
    {
        Project project = Put(KilnRoom.Project(), Edit.Of(KilnRoom.Project().Find(Room)! with { Name = "Brennraum hinten" }));
        Assert.Equal(2, FindingsIndex.Full(project).Count);
        Assert.Equal(0, FindingsIndex.Full(Put(project, Edit.Of(NamingConvention.Empty with { ChecksSpelling = false }))).Count);
    }

    [Theory]
    [InlineData("Temprature of room temprature", "temprature", "temperature", "Temperature of room temperature")]
    [InlineData("Tempratures", "temprature", "temperature", "Tempratures")]
    public void A_word_is_corrected_only_where_it_stands_whole(string name, string word, string to, string corrected) =>
        Assert.Equal(corrected, Spelling.Correct(KilnRoom.Project().Find(Temperature)! with { Name = name }, word, to).Name);

    private static Project Put(Project before, params Edit[] edits)
    {
        ChangeOutcome outcome = Changes.Apply(before, new ChangeSet([.. edits.Select(e => e with { From = null })], "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }
}
