namespace LoftyWren.Core.Places;

/// <summary>Geometry of room outlines: polygons given by their corners in order, in metres.</summary>
public static class Outlines
{
    /// <summary>How deep a proposed room is at least, and after how long a row the next begins, in metres; and what area one has that tells none, in m².</summary>
    private const double ProposedDepth = 6, ProposedRow = 90, ProposedArea = 20;

    /// <summary>
    /// Outlines for those of a floor's rooms that have none: rectangles of their areas, to a tenth of a metre each way, in rows to
    /// the east of what is drawn. A start to go on from.
    /// </summary>
    public static IReadOnlyList<Place> Propose(IReadOnlyList<Place> rooms)
    {
        double west = Math.Ceiling(rooms.SelectMany(r => r.Outline).Select(c => c.X).Append(0).Max() * 10) / 10, x = west, north = 0, deepest = 0;
        var proposed = new List<Place>();
        foreach (Place room in rooms.Where(r => r.Outline.Count < 3))
        {
            double area = room.AreaSquareMetres ?? ProposedArea;
            // What is small is a square, and so is what would be longer than a row.
            double depth = area is < ProposedDepth * ProposedDepth / 4 or > ProposedDepth * ProposedRow ? Tenths(Math.Sqrt(area)) : ProposedDepth;
            if (x > west && x - west + (area / depth) > ProposedRow) (x, north, deepest) = (west, north + deepest, 0);
            double east = x + Tenths(area / depth), south = north + depth;
            proposed.Add(room with { Outline = [Corner(x, north), Corner(east, north), Corner(east, south), Corner(x, south)] });
            (x, deepest) = (east, Math.Max(deepest, depth));
        }
        return proposed;

        // Never so thin that it encloses nothing.
        static double Tenths(double metres) => Math.Max(0.4, Math.Round(metres, 1));
        static Corner Corner(double x, double y) => new(Math.Round(x, 1), Math.Round(y, 1));
    }

    /// <summary>Enclosed area in m² by the shoelace formula; never negative.</summary>
    public static double Area(IReadOnlyList<Corner> outline)
    {
        double twice = 0;
        for (int i = 0; i < outline.Count; i++)
        {
            Corner a = outline[i], b = outline[(i + 1) % outline.Count];
            twice += (a.X * b.Y) - (b.X * a.Y);
        }
        return Math.Abs(twice) / 2;
    }

    /// <summary>Whether a spot lies inside, by the crossing rule.</summary>
    public static bool Contains(IReadOnlyList<Corner> outline, double x, double y)
    {
        bool inside = false;
        for (int i = 0, j = outline.Count - 1; i < outline.Count; j = i++)
        {
            Corner a = outline[i], b = outline[j];
            if ((a.Y > y) != (b.Y > y) && x < ((b.X - a.X) * (y - a.Y) / (b.Y - a.Y)) + a.X) inside = !inside;
        }
        return inside;
    }

    /// <summary>
    /// The visual centre: the spot inside farthest from every wall, found by halving a grid of cells (to 5 cm),
    /// where a label has the most room. For an L-shaped room the centroid may lie outside; this never does.
    /// </summary>
    public static Corner VisualCentre(IReadOnlyList<Corner> outline)
    {
        double minX = outline.Min(c => c.X), maxX = outline.Max(c => c.X), minY = outline.Min(c => c.Y), maxY = outline.Max(c => c.Y);
        double size = Math.Max(0.1, Math.Min(maxX - minX, maxY - minY));
        var queue = new PriorityQueue<(double X, double Y, double Half, double Distance), double>();
        void Add(double x, double y, double half)
        {
            double distance = SignedDistance(outline, x, y);
            queue.Enqueue((x, y, half, distance), -(distance + (half * Math.Sqrt(2))));
        }
        for (double x = minX; x < maxX; x += size)
        {
            for (double y = minY; y < maxY; y += size) Add(x + (size / 2), y + (size / 2), size / 2);
        }
        Corner best = new((minX + maxX) / 2, (minY + maxY) / 2);
        double bestDistance = SignedDistance(outline, best.X, best.Y);
        while (queue.TryDequeue(out var cell, out _))
        {
            if (cell.Distance > bestDistance) (best, bestDistance) = (new Corner(cell.X, cell.Y), cell.Distance);
            if (cell.Distance + (cell.Half * Math.Sqrt(2)) - bestDistance <= 0.05) continue;
            double h = cell.Half / 2;
            Add(cell.X - h, cell.Y - h, h);
            Add(cell.X + h, cell.Y - h, h);
            Add(cell.X - h, cell.Y + h, h);
            Add(cell.X + h, cell.Y + h, h);
        }
        return best;
    }

    /// <summary>Distance in metres to the nearest wall; negative outside.</summary>
    public static double SignedDistance(IReadOnlyList<Corner> outline, double x, double y)
    {
        double nearest = double.MaxValue;
        for (int i = 0; i < outline.Count; i++)
        {
            Corner a = outline[i], b = outline[(i + 1) % outline.Count];
            double dx = b.X - a.X, dy = b.Y - a.Y, length = (dx * dx) + (dy * dy);
            double t = length == 0 ? 0 : Math.Clamp((((x - a.X) * dx) + ((y - a.Y) * dy)) / length, 0, 1);
            nearest = Math.Min(nearest, Math.Sqrt(Math.Pow(x - a.X - (t * dx), 2) + Math.Pow(y - a.Y - (t * dy), 2)));
        }
        return Contains(outline, x, y) ? nearest : -nearest;
    }
}
