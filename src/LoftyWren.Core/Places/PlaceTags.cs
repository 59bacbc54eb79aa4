using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Places;

/// <summary>The tags that follow from what a place is and where it lies.</summary>
internal static class PlaceTags
{
    public static void Give(Place place, TagGiver tags)
    {
        if (place.Kind == PlaceKind.Site) tags.Mark("it is the site", "site");
        else tags.Mark($"it is a {place.Noun}", "space", place.Noun);
        if (place.Kind == PlaceKind.Site && place.TimeZone is { } zone) tags.Give("tz", new TextValue(zone[(zone.LastIndexOf('/') + 1)..]), "its time zone");
        if (place.Kind is PlaceKind.Floor or PlaceKind.Room) tags.Refer("spaceRef", tags.Above.FirstOrDefault(), "where it is");
        if (place.Kind == PlaceKind.Floor) tags.Give("floorNum", new NumberValue(place.Order), "its level");
        if (place.Kind == PlaceKind.Room) tags.Refer("floorRef", tags.At(PlaceKind.Floor), "where it is");
        if (place.AreaSquareMetres is { } area) tags.Give("area", new NumberValue(area, "m²"), "its area");
    }
}
