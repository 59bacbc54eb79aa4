using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Stories;

/// <summary>A story to begin with.</summary>
public sealed record StoryIdea(string Name, double Seconds, IReadOnlyList<StoryEvent> Events);

/// <summary>Stories that suit a device as it is set, for whoever has none yet: somebody comes and goes, the wind rises, a button is pressed, an output is told, the bus fails.</summary>
public static class StoryIdeas
{
    private const int MostChannels = 4;

    /// <summary>Those of a device.</summary>
    public static IReadOnlyList<StoryIdea> Of(DeviceValues values)
    {
        var ideas = new List<StoryIdea>();
        DeviceForm form = values.Form;
        int[] used = [.. Enumerable.Range(0, form.Channels.Count).Where(c => values.IsInUse(c) && form.Channels[c].Behaviour.Key is not ("device" or "function")).Take(MostChannels)];
        int number = 0;
        StoryEvent At(double at, StoryDeed deed, string what, double value, double? lasts = null) => new($"e{++number}", at, deed, what) { Value = value, For = lasts };
        bool Senses(string port) => used.Any(c => form.Channels[c].Behaviour.Senses.Any(s => s.Key == port));
        if (Senses("movement")) ideas.Add(new StoryIdea("Somebody comes, goes and moves once more", 1500, [At(10, StoryDeed.Sense, "movement", 1, 120), At(195, StoryDeed.Sense, "movement", 1, 5)]));
        if (Senses("wind")) ideas.Add(new StoryIdea("The wind rises and falls", 1200, [At(10, StoryDeed.Sense, "temperature", 12), At(60, StoryDeed.Sense, "wind", 14, 300), At(500, StoryDeed.Sense, "rain", 1, 120)]));
        if (Senses("temperature") && !Senses("wind")) ideas.Add(new StoryIdea("A cold room warms up", 7200, [At(0, StoryDeed.Sense, "temperature", 18), At(1800, StoryDeed.Sense, "temperature", 19.5), At(3600, StoryDeed.Sense, "temperature", 21), At(5400, StoryDeed.Sense, "temperature", 22.5)]));
        var contacts = used.Where(c => form.Channels[c].Behaviour.Senses.Any(s => s.Key == "contact")).ToList();
        if (contacts.Count > 0) ideas.Add(new StoryIdea("A short press, then a long one", 30, [.. contacts.SelectMany((c, i) => new[] { At(2 + (i * 0.5), StoryDeed.Sense, $"{form.Channels[c].Key}.contact", 1, 0.2), At(10 + (i * 0.5), StoryDeed.Sense, $"{form.Channels[c].Key}.contact", 1, 1.5) })]));
        var told = used.Select(c => form.Objects.FirstOrDefault(o => o.Channel == c && values.IsThere(o) && o.Is.Part is "switch" or "demand" or "position" && o.Channel == c)).OfType<ObjectForm>().ToList();
        if (told.Count > 0)
        {
            double On(ObjectForm o) => o.Is.Part == "switch" ? 1 : 50;
            ideas.Add(new StoryIdea("Told on, and off again", 900, [.. told.SelectMany(o => new[] { At(10, StoryDeed.Tell, o.Path, On(o)), At(400, StoryDeed.Tell, o.Path, 0) })]));
            ideas.Add(new StoryIdea("The bus fails for 12 s while it is on", 300, [.. told.Select(o => At(10, StoryDeed.Tell, o.Path, On(o))), At(100, StoryDeed.Lose, "bus", 0, 12)]));
        }
        if (form.Channels.Any(c => c.Behaviour.Key == "blind")) ideas.Add(new StoryIdea("Down, a wind alarm, and its end", 600, [.. used.SelectMany(c => new[] { At(5, StoryDeed.Tell, $"{form.Channels[c].Key}.move", 0), At(100, StoryDeed.Tell, $"{form.Channels[c].Key}.move", 1), At(200, StoryDeed.Tell, $"{form.Channels[c].Key}.windAlarm", 1, 150) }).Where(e => form.FindObject(e.What) is { } o && values.IsThere(o))]));
        return ideas;
    }
}
