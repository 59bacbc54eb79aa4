using LoftyWren.Server.Bus.Work;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Libraries;
using LoftyWren.Server.PointLists;
using LoftyWren.Server.Sequences;

namespace LoftyWren.Server.Jobs;

/// <summary>All kinds of long work that are kept over a restart.</summary>
internal static class JobKinds
{
    public static IReadOnlyList<JobKind> All { get; } = [Sending.SendJob, Sending.SetUpJob, Comparing.CompareJob, ProofShelf.Job, ListEndpoints.ImportJob, LibraryEndpoints.PlacingJob, LibraryEndpoints.CopyJob, BusWork.AddressJob, BusWork.SendJob, BusWork.LookJob];
}
