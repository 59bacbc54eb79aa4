using System.Globalization;
using LoftyWren.Core.Fields;

namespace LoftyWren.Core.Places;

/// <summary>The outline of a room as a field: corners as east,south in metres, with spaces between them.</summary>
internal static class OutlineField
{
    public static Field<Place> AsField { get; } = new("outline", "Outline")
    {
        Uses = FieldUses.Import | FieldUses.Export,
        Column = "outline",
        Headers = ["corners"],
        Only = place => place.Kind == PlaceKind.Room,
        Says = (_, place) => string.Join(' ', place.Outline.Select(c => $"{FieldTexts.Say(c.X)},{FieldTexts.Say(c.Y)}")),
        Reads = (_, place, text) =>
        {
            var corners = new List<Corner>();
            foreach (string one in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            {
                if (one.Split(',') is [var east, var south] && double.TryParse(east, NumberStyles.Float, CultureInfo.InvariantCulture, out double x) && double.TryParse(south, NumberStyles.Float, CultureInfo.InvariantCulture, out double y)) corners.Add(new Corner(x, y));
                else return FieldReading.Refused($"‘{one}’ is no corner. Write corners as east,south in metres with spaces between: 0,0 12.5,0 12.5,8 0,8.");
            }
            return FieldReading.Of(place with { Outline = corners });
        },
    };
}
