using System.Globalization;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Commissioning;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Commissioning;

/// <summary>How far a panel or a place is checked.</summary>
public sealed record CheckProgress(RecordId Id, string Name, string Path, bool IsPanel, int Total, int Passed, int Failed)
{
    /// <summary>How many are still to be checked.</summary>
    public int Open => Total - Passed - Failed;
}

/// <summary>All terminals of a panel that points are on, to be checked one by one.</summary>
public sealed record CheckSheet(Controller Controller, string Path, CheckProgress Progress, IReadOnlyList<CheckLine> Lines);

/// <summary>One terminal to check: what is expected, the points of the same equipment that show what it does, and how it was found last; IsStale where it was wired otherwise then.</summary>
public sealed record CheckLine(RecordId PointId, string Point, string Path, string Terminal, string Device, string Cable, Direction Direction, PointKind Kind, string? Unit, string? DifferenceUnit, IReadOnlyList<string> States, string Expects, double? Allowed, string? AllowedBecause, IReadOnlyList<double> Steps, IReadOnlyList<CheckFeedback> Feedback, KeptCheck? Last, bool IsStale);

/// <summary>A point that may show what an output does.</summary>
public sealed record CheckFeedback(RecordId PointId, string Name);

/// <summary>
/// A check as it is entered. The id is given by whoever enters it: it is kept once. Reference: what the instrument shows, or
/// which state was made or seen. For an output Passed says whether what it drives did as told. Seen: what the page showed, for
/// one that was entered without a connection at a moment that has passed; it is kept as a remark, since only the server's own
/// reading is evidence. Correct: whether the correction is to be set.
/// </summary>
public sealed record CheckEntry(string Id, RecordId PointId, double? Reference, double? Allowed, bool? Passed, string? Remark, bool Correct = false, long? At = null, double? Seen = null);

/// <summary>An output to be driven to a value while it is checked.</summary>
public sealed record ExerciseRequest(RecordId PointId, double Value);

internal static class CheckEndpoints
{
    /// <summary>How an output that is driven for a check is held; it ends by itself, whatever becomes of the page.</summary>
    private const string Why = "point check";

    private const double RestoreAfterMinutes = 3;
    private const int MostPhotoBytes = 4 * 1024 * 1024, MostPhotos = 20, MostRemark = 1000;
    private static readonly TimeSpan LateAfter = TimeSpan.FromSeconds(20), Oldest = TimeSpan.FromDays(366);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/checks", (Workspace workspace, CheckStore store) => Progress(workspace.Project, store)).For(Role.Technician);
        api.MapGet("/checks/report", FileContentHttpResult (Workspace workspace, CheckStore store) => TypedResults.File(SheetWriter.Xlsx(Report(workspace.Project, store)), "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "point-checks.xlsx")).For(Role.Viewer);
        api.MapGet("/checks/{controller}", Results<Ok<CheckSheet>, ProblemHttpResult> (string controller, Workspace workspace, CheckStore store) =>
            Panel(workspace.Project, controller) is { } panel ? TypedResults.Ok(SheetOf(workspace.Project, panel, store)) : Problems.Missing("controller")).For(Role.Technician);
        api.MapGet("/checks/of/{point}", (string point, CheckStore store) => store.Of(point)).For(Role.Viewer);
        api.MapGet("/checks/{controller}/code", Results<ContentHttpResult, ProblemHttpResult> (string controller, HttpContext http, Workspace workspace) =>
        {
            if (Panel(workspace.Project, controller) is not { } panel) return Problems.Missing("controller");
            using var made = QRCoder.QRCodeGenerator.GenerateQrCode($"{http.Request.Scheme}://{http.Request.Host}{http.Request.PathBase}/commission/check/{panel.Id}", QRCoder.QRCodeGenerator.ECCLevel.M);
            return TypedResults.Text(new QRCoder.SvgQRCode(made).GetGraphic(4), "image/svg+xml");
        }).For(Role.Technician);
        api.MapPost("/checks", Results<Ok<KeptCheck>, ProblemHttpResult> (CheckEntry entry, HttpContext http, Workspace workspace, CheckStore store, ILink link, TimeProvider clock) => Enter(entry, http.User.Identity!.Name!, workspace, store, link, clock)).For(Role.Technician);
        api.MapPost("/checks/{id}/photo", async Task<Results<NoContent, ProblemHttpResult>> (string id, HttpContext http, CheckStore store) =>
        {
            if (http.Request.ContentLength > MostPhotoBytes) return Problems.Refused($"The photo is larger than {MostPhotoBytes / 1024 / 1024} MB. Take a smaller one.");
            byte[] bytes;
            try
            {
                bytes = await Uploads.Read(http);
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
            if (bytes.Length > MostPhotoBytes) return Problems.Refused($"The photo is larger than {MostPhotoBytes / 1024 / 1024} MB. Take a smaller one.");
            if (TypeOf(bytes) is not { } type) return Problems.Refused("This is no photo that browsers show: JPEG, PNG or WebP.");
            if (store.Find(id) is not { } check) return Problems.Missing("check");
            if (check.Photos >= MostPhotos) return Problems.Refused($"A check has at most {MostPhotos} photos; what is kept is not replaced.");
            store.AddPhoto(id, type, bytes);
            return TypedResults.NoContent();
        }).For(Role.Technician);
        api.MapGet("/checks/{id}/photo", Results<FileContentHttpResult, ProblemHttpResult> (string id, int? n, CheckStore store) => store.Photo(id, n ?? 0) is { } photo ? TypedResults.File(photo.Bytes, photo.Type) : Problems.Missing("photo")).For(Role.Viewer);
        api.MapPost("/checks/exercise", Results<NoContent, ProblemHttpResult> (ExerciseRequest request, HttpContext http, Workspace workspace, SiteServer site) =>
        {
            Project project = workspace.Project;
            if (project.Find<Point>(request.PointId) is not { } point || project.BindingOf(point.Id) is not Fitting { IsInMemory: false } fitting) return Problems.Missing("output");
            if (point.Role == PointRole.Sensor) return Problems.Refused($"‘{point.Name}’ is an input; nothing drives it.");
            if (!PointCheck.Of(project, fitting, point).Steps.Contains(request.Value)) return Problems.Refused($"‘{point.Name}’ is checked at {string.Join(", ", PointCheck.Of(project, fitting, point).Steps.Select(s => s.ToString("0.###", CultureInfo.InvariantCulture)))} {point.Unit}.");
            if (site.Link.AllHeld().FirstOrDefault(h => h.PointId == point.Id && h.Why != Why) is { } held) return Problems.Refused($"‘{point.Name}’ is held at {held.Says} by {held.Who}: {held.Why}. Ask them, or release it first; a check would take that away.");
            double minutes = RestoreAfterMinutes * Math.Max(1, site.Clock().Speed);
            string says = ValueText.Of(request.Value, point.Kind, point.Unit, point.StateTexts);
            try
            {
                site.Link.Hold(http.User.Identity!.Name!, $"Drove ‘{point.Name}’ to {says} for its point check", new HoldOrder(point.Id, request.Value, Why, minutes));
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused($"‘{point.Name}’ cannot be driven: {e.Message}");
            }
            site.Collect();
            return TypedResults.NoContent();
        }).For(Role.Technician);
        api.MapPost("/checks/restore", Results<NoContent, ProblemHttpResult> (ExerciseRequest request, HttpContext http, Workspace workspace, SiteServer site) =>
        {
            // Only what a check holds is let go; what somebody else holds meanwhile is theirs.
            if (site.Link.AllHeld().Any(h => h.PointId == request.PointId && h.Why == Why))
                site.Link.Release(http.User.Identity!.Name!, $"Let ‘{workspace.Project.Find(request.PointId)?.Name}’ go after its point check", request.PointId);
            site.Collect();
            return TypedResults.NoContent();
        }).For(Role.Technician);
    }

    private static Controller? Panel(Project project, string id) => RecordId.IsValid(id) ? project.Find<Controller>(new RecordId(id)) : null;

    private static IEnumerable<(Fitting Fitting, Point Point)> Wired(Project project, RecordId controller) =>
        project.Referrers<Fitting>(controller).Where(f => !f.IsInMemory).Select(f => (Fitting: f, Point: project.Find<Point>(f.PointId))).Where(x => x.Point is not null).Select(x => (x.Fitting, x.Point!));

    /// <summary>How far each panel and each floor is.</summary>
    private static List<CheckProgress> Progress(Project project, CheckStore store)
    {
        var newest = store.Newest();
        var panels = new List<CheckProgress>();
        var places = new Dictionary<RecordId, (int Total, int Passed, int Failed)>();
        foreach (Controller controller in project.All<Controller>().OrderBy(c => c.Name, NaturalOrder.Names))
        {
            var (total, passed, failed) = (0, 0, 0);
            foreach (var (fitting, point) in Wired(project, controller.Id))
            {
                KeptCheck? last = newest.GetValueOrDefault(point.Id.Value);
                bool counts = last is not null && last.Wiring == PointCheck.Of(project, fitting, point).Wiring;
                (total, passed, failed) = (total + 1, passed + (counts && last!.Passed ? 1 : 0), failed + (counts && !last!.Passed ? 1 : 0));
                if (project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == PlaceKind.Floor) is not { } floor) continue;
                var so = places.GetValueOrDefault(floor.Id);
                places[floor.Id] = (so.Total + 1, so.Passed + (counts && last!.Passed ? 1 : 0), so.Failed + (counts && !last!.Passed ? 1 : 0));
            }
            panels.Add(new CheckProgress(controller.Id, controller.Name, project.PathOf(controller.Id), true, total, passed, failed));
        }
        return [.. panels, .. places.Select(p => new CheckProgress(p.Key, project.Find(p.Key)!.Name, project.PathOf(p.Key), false, p.Value.Total, p.Value.Passed, p.Value.Failed)).OrderBy(p => p.Path, NaturalOrder.Names).ThenBy(p => p.Name, NaturalOrder.Names)];
    }

    private static CheckSheet SheetOf(Project project, Controller controller, CheckStore store)
    {
        var newest = store.Newest();
        var byTerminal = Wired(project, controller.Id).ToDictionary(x => x.Fitting.Terminal);
        var lines = PanelTerminals.Of(project, controller).Select((place, turn) => (place, turn)).Where(x => byTerminal.ContainsKey(x.place.Terminal)).Select(x =>
        {
            var (fitting, point) = byTerminal[x.place.Terminal];
            PointExpectation expected = PointCheck.Of(project, fitting, point);
            KeptCheck? last = newest.GetValueOrDefault(point.Id.Value);
            return new CheckLine(point.Id, point.Name, project.PathOf(point.Id), fitting.Terminal, x.place.Module?.Name ?? controller.Name, HardwareList.CableOf(controller, fitting, x.turn + 1), x.place.Group.Direction, point.Kind, point.Unit, Core.Units.Unit.Find(point.Unit)?.Difference.Symbol ?? point.Unit,
                point.StateTexts, expected.Expects, expected.Allowed, expected.AllowedBecause, expected.Steps,
                expected.Steps.Count == 0 ? [] : [.. project.Referrers<Point>(point.OwnerId).Where(p => p.Role == PointRole.Sensor).OrderBy(p => p.Name, NaturalOrder.Names).Select(p => new CheckFeedback(p.Id, p.Name))],
                last, last is not null && last.Wiring != expected.Wiring);
        }).ToList();
        int passed = lines.Count(l => l is { IsStale: false, Last.Passed: true }), failed = lines.Count(l => l is { IsStale: false, Last.Passed: false });
        return new CheckSheet(controller, project.PathOf(controller.Id), new CheckProgress(controller.Id, controller.Name, project.PathOf(controller.Id), true, lines.Count, passed, failed), lines);
    }

    private static Results<Ok<KeptCheck>, ProblemHttpResult> Enter(CheckEntry entry, string who, Workspace workspace, CheckStore store, ILink link, TimeProvider clock)
    {
        Project project = workspace.Project;
        if (!RecordId.IsValid(entry.Id)) return Problems.Refused("A check has an id of small letters, digits and hyphens.");
        if (store.Find(entry.Id) is { } kept) return TypedResults.Ok(kept);
        if (project.Find<Point>(entry.PointId) is not { } point || project.BindingOf(point.Id) is not Fitting { IsInMemory: false } fitting) return Problems.Refused("This point is on no terminal any more. What you entered is still on your screen; look at the panel again.");
        if (entry.Remark is { Length: > MostRemark }) return Problems.Refused($"A remark has at most {MostRemark} characters.");
        if (entry.Remark is { } remark && (remark.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t')) || RecordTexts.Unseen(remark) is not null)) return Problems.Refused("The remark holds a character that cannot be shown. Type it again.");
        if (entry.Reference is { } r && !double.IsFinite(r) || entry.Allowed is { } a && !(a is >= 0 and < 1e6)) return Problems.Refused("The reading of the instrument and the allowed difference are plain numbers, the latter not below nothing.");
        long now = clock.GetUtcNow().ToUnixTimeMilliseconds(), at = Math.Min(entry.At ?? now, now);
        if (now - at > Oldest.TotalMilliseconds) return Problems.Refused($"The check of ‘{point.Name}’ is dated more than {Oldest.TotalDays:0} days ago. Set the clock of the device that it was entered on, then enter it again.");
        bool isLate = now - at > LateAfter.TotalMilliseconds;
        PointExpectation expected = PointCheck.Of(project, fitting, point);
        TerminalReading? terminal = isLate ? null : link.Terminals(fitting.ControllerId).FirstOrDefault(t => t.Terminal == fitting.Terminal);
        if (entry.Seen is { } shown && !double.IsFinite(shown)) return Problems.Refused("What the page showed is a plain number.");
        string remarks = string.Join(' ', new[] { entry.Remark?.Trim(), isLate && entry.Seen is { } seen ? $"The page showed {ValueText.Of(seen, point.Kind, point.Unit, point.StateTexts)}." : null }.Where(r => !string.IsNullOrEmpty(r)));
        double? reading = isLate ? null : link.Read(point.Id) is { } live && (live.Status & (StatusFlags.Fault | StatusFlags.Stale)) == 0 && double.IsFinite(live.Value) ? live.Value : null;
        string? raw = terminal?.Raw is { } number ? string.Create(CultureInfo.InvariantCulture, $"{number} {terminal.Unit}").TrimEnd() : null;
        CheckVerdict verdict;
        double allowed = entry.Allowed ?? expected.Allowed ?? 0;
        if (expected.Steps.Count > 0)
        {
            if (entry.Passed is not { } passed) return Problems.Refused($"Say whether what ‘{point.Name}’ drives did as it was told.");
            verdict = new CheckVerdict(null, passed, passed ? "It drove what it should, at every step." : "It did not drive what it should.");
        }
        else if (entry.Reference is not { } reference)
        {
            // Without anything to compare with only a failure can be noted.
            if (entry.Passed != false) return Problems.Refused(point.Kind == PointKind.Analog ? "Enter what the reference instrument shows." : "Choose the state that was made.");
            verdict = new CheckVerdict(null, false, terminal?.Trouble is { } trouble ? $"The terminal is in trouble: {trouble}." : "It was found wrong.");
        }
        else if (isLate && reading is null) verdict = new CheckVerdict(null, false, "The server has no reading of its own from that moment. Check it once more with a connection.");
        else verdict = PointCheck.Judge(point, reading, terminal?.Trouble, reference, allowed);
        double? correction = null;
        if (entry.Correct && entry.Reference is { } to && reading is { } from && point.Kind == PointKind.Analog && expected.Steps.Count == 0)
        {
            correction = PointCheck.CorrectionFor(fitting.Correction, from, to);
            ChangeOutcome outcome = workspace.Apply([Edit.Of(fitting with { Correction = correction.Value }, project.FindEntry(fitting.Id)!.Revision)], who, $"Corrected ‘{point.Name}’ by {correction.Value.ToString("0.###", CultureInfo.InvariantCulture)} at its point check");
            if (!outcome.Accepted) return Problems.Of(outcome);
            verdict = new CheckVerdict(0, true, $"{verdict.Sentence} Corrected; send {project.Find(fitting.ControllerId)?.Name} for it to hold.");
        }
        var check = new KeptCheck(entry.Id, point.Id.Value, who, at, expected.Wiring, verdict.Passes, entry.Reference, reading, raw, expected.Steps.Count > 0 || point.Kind != PointKind.Analog ? null : allowed, verdict.Sentence, remarks, correction, isLate);
        store.Add(check);
        link.Trail(who, $"Checked ‘{point.Name}’ at {project.Find(fitting.ControllerId)?.Name} {fitting.Terminal}: {(verdict.Passes ? "passed" : "failed")}. {verdict.Sentence}", point.Id);
        return TypedResults.Ok(check);
    }

    /// <summary>The report: every terminal that a point is on, and how it was found last.</summary>
    private static Sheet Report(Project project, CheckStore store)
    {
        static string N(double? value) => value?.ToString("0.###", CultureInfo.InvariantCulture) ?? "";
        var rows = project.All<Controller>().OrderBy(c => c.Name, NaturalOrder.Names).SelectMany(c => SheetOf(project, c, store).Lines.Select(l => (string[])
        [
            c.Name, l.Terminal, l.Point, l.Path, l.Expects, l.Last is null ? "not checked" : l.IsStale ? "wired otherwise since" : l.Last.Passed ? "passed" : "failed", N(l.Last?.Reference), N(l.Last?.Reading), l.Unit ?? "", l.Last?.Raw ?? "", N(l.Last?.Allowed), N(l.Last?.Correction), l.Last?.Verdict ?? "", l.Last?.Remark ?? "", l.Last?.Who ?? "",
            l.Last is null ? "" : When(l.Last.AtMilliseconds),
        ]));
        return new Sheet("Point checks", [["Panel", "Terminal", "Point", "Where", "Expected", "Result", "Reference", "Reading", "Unit", "Raw", "Allowed", "Correction", "Found", "Remark", "Who", "When, UTC"], .. rows]);
    }

    // One that an older version took with any date does not keep the report from being made.
    private static string When(long milliseconds) => DateTimeOffset.FromUnixTimeMilliseconds(Math.Clamp(milliseconds, 0, 253_402_300_799_000)).ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture);

    /// <summary>What sort of picture some bytes are, by how they begin; null for none that is shown.</summary>
    private static string? TypeOf(ReadOnlySpan<byte> bytes) => bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xD8, 0xFF]) ? "image/jpeg" : bytes.StartsWith((ReadOnlySpan<byte>)[0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]) ? "image/png"
        : bytes.Length > 12 && bytes.StartsWith("RIFF"u8) && bytes[8..12].SequenceEqual("WEBP"u8) ? "image/webp" : null;
}
