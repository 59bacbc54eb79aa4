using System.Diagnostics;
using System.Text.Json;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Tests;
using LoftyWren.Formats.Haystack;
using LoftyWren.Formats.Logic;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Tests;

/// <summary>Every reader of texts on texts that were made to end it: nested without end, joined without end, broken anywhere. Each gives an answer or refuses in words.</summary>
public class HostileTextTests
{
    private static readonly Core.Projects.Project Site = KilnRoom.Project();
    private static readonly Sequence Empty = new() { Id = new("seq"), Name = "s", EquipmentId = KilnRoom.Fan };

    private static readonly Dictionary<string, (Action<string> Read, string Sound)> Readers = new()
    {
        ["condition"] = (t => Condition.Parse(t), "mode = valve and (stages >= 2 or not lock) and function in staircase, pulse"),
        ["condition of a device"] = (t => DescriptionFile.Parse(JsonSerializer.Serialize(new { format = "lofty-wren-bus-devices-1", devices = new[] { new { id = "d", name = "D", revision = 1, widthMillimetres = 0, busMilliamps = 0, pages = new[] { new { key = "p", title = "P", parameters = new[] { "a" }, when = t } }, parameters = new[] { new { key = "a", label = "A", sort = "yesNo" } } } } })), "a and not (a or a)"),
        ["filter"] = (t => Filter.Parse(t), "temp and (sensor or sp) and not elec and area > 30m²"),
        ["rule"] = (t => RuleCondition.Parse(t), "has temp and (name contains \"Room\" or not has sp)"),
        ["zinc"] = (t => Zinc.Read(t), "\"text\""),
        ["haystack"] = (t => HaystackFormats.Read(t), "ver:\"3.0\"\nid,dis,site\n@a,\"A\",M\n"),
        ["ledger"] = (t => LedgerReader.Read(Site, Empty, t), "A = Two-position (measured: 21 °C, limit: 20 °C; differential: 1 K)\nB = A and ‘A’\nM = Mode table (C; begins anew)\n  On: when A; C = on\n  Off: C = off"),
        ["test"] = (t => TestText.Read(t, new SubjectNames(Site, Empty)), "set Room temperature to 31 °C\nwait 5 min"),
        ["phrase"] = (t => Phrase.Apply(new Schedule { Id = new("x"), Name = "x", PlaceId = KilnRoom.Room, Kind = Core.Points.PointKind.Binary, StateTexts = ["off", "on"], Default = 0 }, t), "weekdays 8:00 to 17:30 on, saturday 10-16"),
        ["diagram"] = (t => LogicXml.Read(Site, Empty, t), System.Text.Encoding.UTF8.GetString(LogicXml.Write(Site, Site.Find<Sequence>(KilnRoom.Sequence)!, DateTimeOffset.UnixEpoch)).TrimStart('\uFEFF')),
        ["devices"] = (t => DescriptionFile.Parse(t), "{\"format\": \"lofty-wren-bus-devices-1\", \"devices\": []}"),
    };

    private const string Marks = "()[]{}<>‘’“”\"=&|,;:\n\t 0aé←→";

    public static TheoryData<string> Names => [.. Readers.Keys];

    private static IEnumerable<string> Bombs()
    {
        const int many = 20_000;
        string Many(string text, int times = many) => string.Concat(Enumerable.Repeat(text, times));
        foreach (string opener in new[] { "(", "not ", "[", "{", "<a>", "<<", "‘", "“", "\"", "not(", "((not ", "-", "a and (", "A = not (" }) yield return Many(opener);
        yield return Many("not ", 44) + "lock";
        yield return Many("(", 59) + "lock" + Many(")", 59);
        yield return "a" + Many(" or a");
        yield return "a" + Many(" and a");
        yield return "a" + Many(" or (a)", 900);
        yield return "A = B" + Many(" and B");
        yield return "<?xml version=\"1.0\"?><!DOCTYPE a [<!ENTITY b \"" + Many("b", 1000) + "\">]><Project>" + Many("&b;", 1000) + "</Project>";
        yield return "<Project>" + Many("<a>", 5000) + Many("</a>", 5000) + "</Project>";
        yield return new string('\n', many);
        yield return new string('9', many);
        yield return "";
        yield return "\0\uFFFE\uD800";
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void No_text_ends_a_reader_or_holds_it(string name)
    {
        var (read, sound) = Readers[name];
        var chance = new Random(7);
        IEnumerable<string> broken = Enumerable.Range(0, 300).Select(_ =>
        {
            char[] letters = [.. sound, .. sound];
            for (int i = chance.Next(1, 6); i > 0; i--) letters[chance.Next(letters.Length)] = Marks[chance.Next(Marks.Length)];
            return new string(letters)[..chance.Next(letters.Length)];
        });
        // What is sound is read, so that the rest is not refused for nothing.
        read(sound);
        foreach (string text in Bombs().Concat(broken))
        {
            long began = Stopwatch.GetTimestamp();
            try
            {
                read(text);
            }
            catch (Exception e) when (e is FormatException or JsonException or FileRefusedException)
            {
                Assert.False(string.IsNullOrWhiteSpace(e.Message));
            }
            // Work is bounded: what doubles with each ‘not’ or squares with each bracket would take minutes.
            Assert.True(Stopwatch.GetElapsedTime(began) < TimeSpan.FromSeconds(60), $"{name} is held by {text[..Math.Min(40, text.Length)]}");
        }
    }
}
