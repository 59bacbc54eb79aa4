using System.Buffers.Binary;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Lines;

namespace LoftyWren.Core.Bus.Devices;

/// <summary>One writing of a transfer: which elements of which property.</summary>
public sealed record TransferStep(BusPart Part, int Pid, int First, int Count, byte[] Octets)
{
    /// <summary>How long it takes on an idle line with its answer, which has as many octets, µs; an order is answered with one.</summary>
    public long Microseconds
    {
        get
        {
            int written = 7 + 6 + Octets.Length, answered = 7 + 6 + (Pid == BusPids.Load ? 1 : Octets.Length);
            return FrameTime.Microseconds(written) + FrameTime.Microseconds(answered);
        }
    }
}

/// <summary>
/// What has to be written to a device so that it has an image: all of it, or only in what it differs from what is there. It
/// begins with the order to begin and ends with the sum of all and the order to change over; until then the device runs what
/// it had.
/// </summary>
public sealed class ApplicationTransfer
{
    private const int GroupsAtOnce = 5, TiesAtOnce = 2;

    private ApplicationTransfer(IReadOnlyList<TransferStep> steps) => Steps = steps;

    /// <summary>The writings in their order.</summary>
    public IReadOnlyList<TransferStep> Steps { get; }

    /// <summary>How long they take on an idle line, s.</summary>
    public double Seconds => Steps.Sum(s => s.Microseconds) / 1e6;

    /// <summary>Works it out.</summary>
    /// <param name="wanted">What the device is to have.</param>
    /// <param name="there">What it has; null to write all of it.</param>
    /// <param name="form">The device unfolded.</param>
    public static ApplicationTransfer Of(ApplicationImage wanted, ApplicationImage? there, DeviceForm form)
    {
        ApplicationImage from = there ?? ApplicationImage.Empty;
        var steps = new List<TransferStep> { Order(there is null ? LoadOrder.BeginEmpty : LoadOrder.BeginFromPresent) };
        Dictionary<int, int> nthText = [];
        foreach (ParameterForm p in form.Parameters)
        {
            if (p.Is.Sort == ParameterSort.Text) nthText[p.At] = nthText.Count;
        }
        foreach (int at in wanted.Settings.Keys.Union(from.Settings.Keys).Order())
        {
            ParameterDescription p = form.Parameters[at].Is;
            string value = wanted.Settings.GetValueOrDefault(at, p.Begins);
            if (value == from.Settings.GetValueOrDefault(at, p.Begins)) continue;
            byte[] octets = ParameterWire.Write(p, value);
            if (p.Sort != ParameterSort.Text)
            {
                (int pid, int first) = BusPids.At(BusPids.Values, at);
                steps.Add(new TransferStep(BusPart.Application, pid, first, 1, octets));
                continue;
            }
            // As many pieces as the longer of the two takes, so that nothing of the old is left behind the new.
            int was = ParameterWire.Write(p, from.Settings.GetValueOrDefault(at, p.Begins)).Length, pieces = (Math.Max(Math.Max(octets.Length, was), 1) + ParameterWire.PieceOctets - 1) / ParameterWire.PieceOctets;
            for (int piece = 0; piece < pieces; piece++)
            {
                byte[] ten = new byte[ParameterWire.PieceOctets];
                int begin = piece * ParameterWire.PieceOctets;
                if (begin < octets.Length) octets.AsSpan(begin, Math.Min(ten.Length, octets.Length - begin)).CopyTo(ten);
                steps.Add(new TransferStep(BusPart.Application, BusPids.Texts, (nthText[at] * ParameterWire.MostPieces) + piece + 1, 1, ten));
            }
        }
        Table(steps, BusPart.Groups, wanted.Groups, from.Groups, GroupsAtOnce, g =>
        {
            byte[] two = new byte[2];
            BinaryPrimitives.WriteUInt16BigEndian(two, g.Raw);
            return two;
        });
        Table(steps, BusPart.Ties, wanted.Ties, from.Ties, TiesAtOnce, ParameterWire.Write);
        byte[] check = new byte[4];
        BinaryPrimitives.WriteUInt32BigEndian(check, wanted.Check(form));
        steps.Add(new TransferStep(BusPart.Application, BusPids.Check, 1, 1, check));
        steps.Add(Order(LoadOrder.Complete));
        return new ApplicationTransfer(steps);
    }

    private static TransferStep Order(LoadOrder order) => new(BusPart.Application, BusPids.Load, 1, 1, [(byte)order]);

    // Only where elements differ, and how many there are.
    private static void Table<T>(List<TransferStep> steps, BusPart part, IReadOnlyList<T> wanted, IReadOnlyList<T> there, int atOnce, Func<T, byte[]> write)
    {
        if (wanted.Count < there.Count)
        {
            byte[] count = new byte[2];
            BinaryPrimitives.WriteUInt16BigEndian(count, (ushort)wanted.Count);
            steps.Add(new TransferStep(part, BusPids.Table, 0, 1, count));
        }
        for (int i = 0; i < wanted.Count;)
        {
            if (i < there.Count && wanted[i]!.Equals(there[i]))
            {
                i++;
                continue;
            }
            (int pid, int first) = BusPids.At(BusPids.Table, i);
            int n = Math.Min(Math.Min(atOnce, wanted.Count - i), BusPids.Each - first + 1);
            steps.Add(new TransferStep(part, pid, first, n, [.. wanted.Skip(i).Take(n).SelectMany(write)]));
            i += n;
        }
    }
}
