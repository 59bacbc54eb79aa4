using NodaTime;

namespace LoftyWren.Core.Tags;

/// <summary>The value of a tag: one of the scalar kinds of Project Haystack 4.</summary>
public abstract record TagValue
{
    /// <summary>The value that says only that the tag is there.</summary>
    public static TagValue Marker { get; } = new MarkerValue();

    /// <summary>As its Zinc scalar: <c>M</c>, <c>21.5°C</c>, <c>"text"</c>, <c>@ref</c>.</summary>
    public sealed override string ToString() => Zinc.Write(this);
}

/// <summary>The tag is there, and that is all.</summary>
public sealed record MarkerValue : TagValue;

/// <summary>Not available.</summary>
public sealed record NaValue : TagValue;

/// <summary>A tag to take away, in an update.</summary>
public sealed record RemoveValue : TagValue;

/// <summary>True or false.</summary>
public sealed record BoolValue(bool Value) : TagValue;

/// <summary>A number with an optional unit of the open unit list.</summary>
public sealed record NumberValue(double Value, string? Unit = null) : TagValue;

/// <summary>Text.</summary>
public sealed record TextValue(string Value) : TagValue;

/// <summary>An address of the web.</summary>
public sealed record UriValue(string Value) : TagValue;

/// <summary>A reference to a record, with what it was called.</summary>
public sealed record RefValue(string Id, string? Called = null) : TagValue
{
    /// <summary>Two references are the same when they lead to the same record, whatever it was called.</summary>
    public bool Equals(RefValue? other) => other is not null && other.Id == Id;

    /// <inheritdoc/>
    public override int GetHashCode() => Id.GetHashCode(StringComparison.Ordinal);
}

/// <summary>A symbol of a vocabulary: <c>^elec-meter</c>.</summary>
public sealed record SymbolValue(string Value) : TagValue;

/// <summary>A calendar date.</summary>
public sealed record DateValue(LocalDate Value) : TagValue;

/// <summary>A time of day.</summary>
public sealed record TimeValue(LocalTime Value) : TagValue;

/// <summary>A moment, with the city name of its zone.</summary>
public sealed record MomentValue(OffsetDateTime Value, string Zone) : TagValue;

/// <summary>A place on earth, in degrees.</summary>
public sealed record CoordValue(double Latitude, double Longitude) : TagValue;

/// <summary>A value of a sort that the vocabulary names and the text encodes: <c>Span("today")</c>.</summary>
public sealed record XStrValue(string Sort, string Value) : TagValue;
