using System.Globalization;
using System.Text.Json.Serialization;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Signals;

/// <summary>One point of a curve: what the sensor gives, in the unit of its signal, and what that means, in the unit of the point.</summary>
public sealed record CurvePoint(double Raw, double Value);

/// <summary>A sensor curve of the project's own, by points, straight between them.</summary>
public sealed record SensorCurve : ProjectRecord
{
    private const int Most = 500;

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<SensorCurve> AsKind { get; } = new("sensorCurve")
    {
        Nouns = [new("sensor curve", "sensor curves")],
        RunsInImage = true,
        Fields =
        [
            new Field<SensorCurve>("points", "Points")
            {
                Uses = FieldUses.Form,
                Says = (_, curve) => curve.InWords,
                Reads = (_, curve, text) => Parse(text, out string? wrong) is { } points ? FieldReading.Of(curve with { Points = points }) : FieldReading.Refused(wrong!),
            }.Told("What the sensor gives and what that means, one after the other: 9200 = -10; 5000 = 10; 2500 = 30. Ω, V or mA by the signal; the value in the point's unit."),
        ],
    };

    /// <summary>Its points, in any order.</summary>
    public required IReadOnlyList<CurvePoint> Points { get; init; }

    /// <summary>Its points as <see cref="Parse"/> reads them.</summary>
    [JsonIgnore]
    public string InWords => string.Join("; ", Points.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Raw} = {p.Value}")));

    /// <summary>As something to measure by.</summary>
    public Curve ToCurve() => new PointCurve([.. Points.Select(p => (p.Raw, p.Value))]);

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"sensor-curve|{Name.ToLowerInvariant()}", "name", "There is already a sensor curve called ‘{0}’. Choose another name.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (Points.Count > Most) yield return new Refusal(Id, "points", $"‘{Name}’ has {Points.Count} points; a controller holds {Most}.");
        else if (PointCurve.Trouble([.. Points.Select(p => (p.Raw, p.Value))]) is { } trouble) yield return new Refusal(Id, "points", trouble);
    }

    /// <summary>The points that a text stands for, or null and why not.</summary>
    public static IReadOnlyList<CurvePoint>? Parse(string text, out string? wrong)
    {
        var points = new List<CurvePoint>();
        foreach (string part in text.Split([';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            string[] sides = part.Split('=', StringSplitOptions.TrimEntries);
            if (sides.Length != 2 || FieldTexts.Number(sides[0], out double raw) is not null || FieldTexts.Number(sides[1], out double value) is not null)
            {
                wrong = $"‘{(part.Length > 40 ? part[..40] + "…" : part)}’ is no point of a curve. Write what the sensor gives, =, and what that means: 5000 = 10.";
                return null;
            }
            points.Add(new CurvePoint(raw, value));
            if (points.Count > Most) break;
        }
        wrong = PointCurve.Trouble([.. points.Select(p => (p.Raw, p.Value))]);
        return wrong is null ? points : null;
    }
}
