// Package figures measures every figure that the project promises. Nothing in
// it is written in by hand: `./neo figures` measures anew and prints one a line,
// and the tests call the accuracy parts and assert them.
package figures

import (
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"

	"github.com/go-rod/rod"

	"neokinema/core/model"
	"neokinema/internal/testenv"
	"neokinema/simcam/points"
)

// Figure is one promise.
type Figure struct {
	Name   string
	Unit   string
	Target string // "<= 0.1" or ">= 90"
	// Measure gives the value; a lab opens what it needs on first use.
	Measure func(*Lab) (float64, error)
}

// Pass tells whether a value keeps the promise.
func (f Figure) Pass(v float64) bool {
	var op string
	var limit, upper float64
	if low, high, ok := strings.Cut(f.Target, ".."); ok {
		_, err1 := fmt.Sscan(low, &limit)
		_, err2 := fmt.Sscan(high, &upper)
		return err1 == nil && err2 == nil && v >= limit && v <= upper
	}
	if _, err := fmt.Sscanf(f.Target, "%s %f", &op, &limit); err != nil {
		return false
	}
	switch op {
	case "<=":
		return v <= limit
	case ">=":
		return v >= limit
	}
	return false
}

// All lists the figures in the order in which they are printed.
func All() []Figure {
	return []Figure{
		{"angle.truth.max_deg", "deg", "<= 0.1", func(*Lab) (float64, error) { return AngleError() }},
		{"doubt.montecarlo.err_pct", "%", "<= 2", func(*Lab) (float64, error) { return DoubtError(40000), nil }},
		{"blocks.whatif.err_deg", "deg", "<= 0.05", func(*Lab) (float64, error) { return BlocksError(), nil }},
		{"frames.exact.mismatches", "frames", "<= 0", func(l *Lab) (float64, error) { return l.FrameMismatches(25) }},
		{"import.first_frame.s", "s", "<= 2", func(l *Lab) (float64, error) { r, err := l.importing(); return r.firstFrame, err }},
		{"import.vs_decode.ratio", "ratio", "<= 4", func(l *Lab) (float64, error) { r, err := l.importing(); return r.ratio, err }},
		{"upload.server_rss.mb", "MB", "<= 300", func(*Lab) (float64, error) { return ServerMemory() }},
		{"step.p95.ms", "ms", "<= 16.7", func(l *Lab) (float64, error) { r, err := l.hand(); return r.step, err }},
		{"jump.p95.ms", "ms", "<= 100", func(l *Lab) (float64, error) { r, err := l.hand(); return r.jump, err }},
		{"readout.p95.ms", "ms", "<= 16", func(l *Lab) (float64, error) { r, err := l.hand(); return r.readout, err }},
		{"frontend.first_load.kb", "kB", "<= 300", func(*Lab) (float64, error) { return FirstLoad() }},
		{"core.wasm.kb", "kB", "<= 1300", func(*Lab) (float64, error) { return compressed("web/public/core/core.wasm") }},
		{"sim.events.count", "events", ">= 10", func(l *Lab) (float64, error) { r, err := l.simulate(); return float64(r.events), err }},
		{"sim.faults.count", "faults", ">= 40", func(l *Lab) (float64, error) { r, err := l.simulate(); return float64(r.faults), err }},
		{"sim.foot_slide.max_mm", "mm", "<= 5", func(l *Lab) (float64, error) { r, err := l.simulate(); return 1000 * r.slide, err }},
		{"sim.fall_g.err_pct", "%", "<= 2", func(l *Lab) (float64, error) { r, err := l.simulate(); return 100 * r.fall, err }},
		{"sim.timing_bands.missed", "bands", "<= 0", func(l *Lab) (float64, error) { r, err := l.simulate(); return float64(r.missed), err }},
		{"sim.pose_found.pct", "%", ">= 80", func(l *Lab) (float64, error) { r, err := l.pose(); return r.found, err }},
		{"sim.pose_error.px_median", "px", "<= 20", func(l *Lab) (float64, error) { r, err := l.pose(); return r.median, err }},
		{"sim.render.s_per_frame", "s", "<= 0.3", func(*Lab) (float64, error) { return RenderTime() }},
		{"demo.clips.count", "clips", ">= 20", func(*Lab) (float64, error) { n, _, _, err := demoClips(); return float64(n), err }},
		{"demo.clips.total_mb", "MB", "<= 40", func(*Lab) (float64, error) { _, v, _, err := demoClips(); return v, err }},
		{"demo.clips.largest_mb", "MB", "<= 4", func(*Lab) (float64, error) { _, _, v, err := demoClips(); return v, err }},
		{"contacts.within_1_frame.pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.digitise(); return r.contacts.Percent(), err }},
		{"contacts.poor.within_1_frame.pct", "%", ">= 0", func(l *Lab) (float64, error) { r, err := l.digitise(); return r.poor.Percent(), err }},
		{"keypos.start.within_1_frame.pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.digitise(); return r.start.Percent(), err }},
		{"keypos.running.within_1_frame.pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.digitise(); return r.running.Percent(), err }},
		{"pose.corrected.angle_median_deg", "deg", "<= 3", func(l *Lab) (float64, error) { r, err := l.digitise(); return middle(r.corrected), err }},
		{"pose.draft.angle_median_deg", "deg", "<= 10", func(l *Lab) (float64, error) { r, err := l.digitise(); return middle(r.draft), err }},
		{"tracker.synthetic.px", "px", "<= 0.2", func(l *Lab) (float64, error) { r, err := l.follow(); return r.px, err }},
		{"tracker.vs_opencv.error_ratio", "ratio", "<= 1.2", func(l *Lab) (float64, error) { r, err := l.follow(); return r.errors, err }},
		{"tracker.vs_opencv.time_ratio", "ratio", "<= 10", func(l *Lab) (float64, error) { r, err := l.follow(); return r.time, err }},
		{"pan.foot_drift.pct_height", "%", "<= 1", func(*Lab) (float64, error) { return FootDrift() }},
		{"smooth.scipy.max_diff", "px", "<= 1e-6", func(*Lab) (float64, error) { return SmoothDiff() }},
		{"homography.opencv.max_diff_px", "px", "<= 0.01", func(*Lab) (float64, error) { return HomographyDiff() }},
		{"recompute.1000x33.ms", "ms", "<= 25", func(*Lab) (float64, error) { return Recompute() }},
		{"draft.save.ms", "ms", "<= 100", func(l *Lab) (float64, error) { r, err := l.keep(); return r.save, err }},
		{"score.fps", "1/s", ">= 55", func(l *Lab) (float64, error) { r, err := l.keep(); return r.fps, err }},
		{"season.rules.failed", "cases", "<= 0", func(*Lab) (float64, error) { return SeasonRules() }},
		{"season.violations", "findings", "<= 0", func(*Lab) (float64, error) { return SeasonViolations(500) }},
		{"season.recompute.ms", "ms", "<= 200", func(*Lab) (float64, error) { return SeasonRecompute() }},
		{"season.offline.lost", "notes", "<= 0", func(l *Lab) (float64, error) { return l.OfflineLost(5) }},
		{"season.odds.err_pct", "%", "<= 2", func(*Lab) (float64, error) { return SeasonOdds(100_000), nil }},
		{"season.odds.coverage_pct", "%", ">= 93", func(*Lab) (float64, error) { return SeasonOddsCover(4000), nil }},
		{"eye.dprime.err", "d'", "<= 0.15", func(*Lab) (float64, error) { e, _ := EyeDPrime(1000); return e, nil }},
		{"eye.dprime.coverage_pct", "%", ">= 90", func(*Lab) (float64, error) { _, c := EyeDPrime(1000); return c, nil }},
		{"eye.threshold.err_pct", "%", "<= 10", func(*Lab) (float64, error) { e, _ := EyeThreshold(60); return e, nil }},
		{"eye.threshold.single_pct", "%", "<= 20", func(*Lab) (float64, error) { _, e := EyeThreshold(60); return e, nil }},
		{"eye.angle_bias.err_deg", "deg", "<= 0.5", func(*Lab) (float64, error) { return EyeBias(400), nil }},
		{"eye.truth.wrong", "findings", "<= 0", func(*Lab) (float64, error) { return EyeTruth(), nil }},
		{"eye.bank.clips", "clips", ">= 400", func(*Lab) (float64, error) { return EyeBank() }},
		{"eye.drills.moving", "drills", ">= 60", func(*Lab) (float64, error) { return EyeDrills() }},
		{"eye.import.ratio", "ratio", "<= 1.2", func(l *Lab) (float64, error) { return l.eyeImport() }},
		{"workshop.examples.err_max_pct", "%", "<= 1", func(*Lab) (float64, error) { return WorkedExamples() }},
		{"workshop.layout.err_cm", "cm", "<= 1", func(*Lab) (float64, error) { return PlanLayout(), nil }},
		{"workshop.foul.err_pct", "%", "<= 1", func(*Lab) (float64, error) { return FoulOdds(2_000_000) }},
		{"workshop.path.radius.err_pct", "%", "<= 5", func(l *Lab) (float64, error) { r, err := l.plans(); return r.radius, err }},
		{"workshop.path.lean.err_deg", "deg", "<= 2", func(l *Lab) (float64, error) { r, err := l.plans(); return r.lean, err }},
		{"workshop.path.fed_pct", "%", ">= 0", func(l *Lab) (float64, error) { r, err := l.plans(); return r.fed.percent(), err }},
		{"workshop.flight.fps", "1/s", ">= 60", func(l *Lab) (float64, error) { r, err := l.slider(); return r.fps, err }},
		{"workshop.flight.p95.ms", "ms", "<= 16.7", func(l *Lab) (float64, error) { r, err := l.slider(); return r.p95, err }},
		{"workshop.absurd.bad_answers", "answers", "<= 0", func(*Lab) (float64, error) { return AbsurdAnswers(), nil }},
		{"models.events.complete", "events", ">= 10", func(l *Lab) (float64, error) { r, err := l.judge(); return r.complete, err }},
		{"models.checkpoints.computed", "checkpoints", ">= 80", func(l *Lab) (float64, error) { r, err := l.judge(); return r.computed, err }},
		{"models.checkpoints.by_mark", "checkpoints", ">= 0", func(l *Lab) (float64, error) { r, err := l.judge(); return r.byMark, err }},
		{"models.faultless.false_alarms", "faults", "<= 0", func(l *Lab) (float64, error) { r, err := l.judge(); return r.alarms, err }},
		{"models.planted.found_pct", "%", ">= 100", func(l *Lab) (float64, error) { r, err := l.judge(); return 100 * r.found / r.planted, err }},
		{"models.planted.first_pct", "%", ">= 100", func(l *Lab) (float64, error) { r, err := l.judge(); return 100 * r.first / r.planted, err }},
		{"models.planted.measured_pct", "%", ">= 80", func(l *Lab) (float64, error) { r, err := l.judge(); return 100 * r.measured / r.planted, err }},
		{"models.mirrored.differences", "answers", "<= 0", func(l *Lab) (float64, error) { r, err := l.judge(); return r.mirrored, err }},
		{"throws.one_view.ball_azimuth.median_deg", "deg", "<= 5", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.ball, err }},
		{"throws.one_view.body_azimuth.median_deg", "deg", "<= 12", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.body, err }},
		{"throws.one_view.lift_catch.within_1_frame.pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.steps, err }},
		{"throws.one_view.lift_catch.median_deg", "deg", "<= 6", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.stepAz, err }},
		{"throws.one_view.speed.err_pct", "%", "<= 3", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.speed, err }},
		{"throws.one_view.covered.pct", "%", ">= 90", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.covered, err }},
		{"throws.poor.ball_azimuth.median_deg", "deg", "<= 10", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.poorBall, err }},
		{"throws.poor.body_azimuth.median_deg", "deg", "<= 20", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.poorBody, err }},
		{"throws.poor.speed.err_pct", "%", "<= 20", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.poorSpeed, err }},
		{"throws.two_views.ball_azimuth.median_deg", "deg", "<= 2", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.ball2, err }},
		{"throws.two_views.body_azimuth.median_deg", "deg", "<= 5", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.body2, err }},
		{"throws.two_views.speed.err_pct", "%", "<= 1.5", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.speed2, err }},
		{"throws.release.speed_err_pct", "%", "<= 2", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.releaseSpeed, err }},
		{"throws.release.angle_err_deg", "deg", "<= 1", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.releaseAngle, err }},
		{"throws.sync.err_frames", "frames", "<= 0.5", func(l *Lab) (float64, error) { r, err := l.throwInDepth(); return r.sync, err }},
		{"throws.sound.err_frames", "frames", "<= 0.5", func(*Lab) (float64, error) { return SoundError() }},
		{"throws.attitude.err_deg", "deg", "<= 2", func(l *Lab) (float64, error) { r, err := l.disc(); return r.pitch, err }},
		{"throws.wobble.err_deg", "deg", "<= 2", func(l *Lab) (float64, error) { r, err := l.disc(); return r.wobble, err }},
		{"throws.flight.closed_form_err_m", "m", "<= 0.000001", func(*Lab) (float64, error) { return points.Flight(), nil }},
		{"followup.match.within_1_frame.pct", "%", ">= 90", func(*Lab) (float64, error) { r, err := points.Matching(0.5); return r.Percent(), err }},
		{"followup.list_10k.p95_ms", "ms", "<= 100", func(l *Lab) (float64, error) { r, err := l.crowd(); return r.list, err }},
		{"followup.open_10k.p95_ms", "ms", "<= 100", func(l *Lab) (float64, error) { r, err := l.crowd(); return r.open, err }},
		{"followup.export.differences", "files", "<= 0", func(l *Lab) (float64, error) { return l.ArchiveDifferences() }},
		{"followup.breakdown.actions", "acts", "<= 40", func(l *Lab) (float64, error) { return l.Breakdown() }},
		{"followup.access.routes_checked", "requests", ">= 500", func(l *Lab) (float64, error) { r, err := l.doors(); return float64(r.checked), err }},
		{"followup.access.leaks", "answers", "<= 0", func(l *Lab) (float64, error) { r, err := l.doors(); return float64(r.leaks), err }},
		{"doors.kill9.lost_edits", "edits", "<= 0", func(l *Lab) (float64, error) { r, err := l.crash(kills); return float64(r.lostEdits), err }},
		{"doors.kill9.lost_uploads", "uploads", "<= 0", func(l *Lab) (float64, error) { r, err := l.crash(kills); return float64(r.lostUploads), err }},
		{"doors.kill9.orphans", "files", "<= 0", func(l *Lab) (float64, error) { r, err := l.crash(kills); return float64(r.orphans), err }},
		{"doors.media.files", "files", ">= 200", func(l *Lab) (float64, error) { r, err := l.hostile(); return float64(r.files), err }},
		{"doors.media.foreign_reads", "files", "<= 0", func(l *Lab) (float64, error) { r, err := l.hostile(); return float64(r.foreign), err }},
		{"doors.media.crashes", "files", "<= 0", func(l *Lab) (float64, error) { r, err := l.hostile(); return float64(r.crashes), err }},
		{"doors.media.peak_mb", "MB", "<= 700", func(l *Lab) (float64, error) { r, err := l.hostile(); return r.peak, err }},
		{"doors.fuzz.requests", "requests", ">= 20000", func(l *Lab) (float64, error) { r, err := l.fuzz(); return float64(r.requests), err }},
		{"doors.fuzz.errors_5xx", "answers", "<= 0", func(l *Lab) (float64, error) { r, err := l.fuzz(); return float64(r.failed), err }},
		{"doors.archive.foreign_writes", "rows", "<= 0", func(l *Lab) (float64, error) { r, err := l.archives(); return float64(r.foreign), err }},
		{"doors.archive.bomb_peak_mb", "MB", "<= 300", func(l *Lab) (float64, error) { r, err := l.archives(); return r.peak, err }},
		{"doors.signin.peak_mb", "MB", "<= 400", func(l *Lab) (float64, error) { return l.SignInPeak() }},
		{"doors.delete.left_files", "files", "<= 0", func(l *Lab) (float64, error) { return l.DeletedLeft() }},
		{"doors.access.requests", "requests", ">= 1500", func(l *Lab) (float64, error) { r, err := l.doors(); return float64(r.checked), err }},
		{"doors.access.leaks", "answers", "<= 0", func(l *Lab) (float64, error) { r, err := l.doors(); return float64(r.leaks), err }},
		{"doors.load.errors", "answers", "<= 0", func(l *Lab) (float64, error) { r, err := l.load(); return float64(r.errors), err }},
		{"doors.load.cpu_ms.queue", "ms", "<= 10", func(l *Lab) (float64, error) { r, err := l.load(); return r.cpu["queue"], err }},
		{"doors.load.cpu_ms.log", "ms", "<= 15", func(l *Lab) (float64, error) { r, err := l.load(); return r.cpu["log"], err }},
		{"doors.load.cpu_ms.sheet", "ms", "<= 8", func(l *Lab) (float64, error) { r, err := l.load(); return r.cpu["sheet"], err }},
		{"doors.load.cpu_ms.still", "ms", "<= 20", func(l *Lab) (float64, error) { r, err := l.load(); return r.cpu["still"], err }},
		{"doors.load.cpu_ms.edit", "ms", "<= 4", func(l *Lab) (float64, error) { r, err := l.load(); return r.cpu["edit"], err }},
		{"doors.servers.jobs_lost", "jobs", "<= 0", func(l *Lab) (float64, error) { return l.ServersJobsLost() }},
		{"doors.restore.differences", "things", "<= 0", func(l *Lab) (float64, error) { return RestoreDifferences() }},
		{"numbers.coverage.min_pct", "%", ">= 90", func(l *Lab) (float64, error) { return l.covers(byDraft, true) }},
		{"numbers.coverage.mean_pct", "%", "94..97", func(l *Lab) (float64, error) { return l.covers(byDraft, false) }},
		{"numbers.coverage.white_1px.min_pct", "%", ">= 90", func(l *Lab) (float64, error) { return l.covers(tracked, true) }},
		{"numbers.coverage.white_1px.mean_pct", "%", "94..97", func(l *Lab) (float64, error) { return l.covers(tracked, false) }},
		{"numbers.coverage.true_flags.min_pct", "%", ">= 90", func(l *Lab) (float64, error) { return l.covers(flagged, true) }},
		{"numbers.coverage.true_flags.mean_pct", "%", "94..97", func(l *Lab) (float64, error) { return l.covers(flagged, false) }},
		{"numbers.moments.bias_ms.max", "ms", "<= 2", func(l *Lab) (float64, error) { n, err := l.numbers(); return n.bias(nearlyExact), err }},
		{"numbers.within_1_frame.white_1px.pct", "%", ">= 95", func(l *Lab) (float64, error) { n, err := l.numbers(); return shareOf(n.told, tracked), err }},
		{"numbers.within_1_frame.draft.pct", "%", ">= 85", func(l *Lab) (float64, error) { n, err := l.numbers(); return shareOf(n.honest, byDraft), err }},
		{"numbers.release.coverage_pct", "%", ">= 93", func(l *Lab) (float64, error) { n, err := l.numbers(); return n.release(), err }},
		{"numbers.faults.double.found_pct", "%", ">= 90", func(*Lab) (float64, error) { return doubleFound() }},
		{"numbers.faults.certain_false_alarms", "faults", "<= 0", func(*Lab) (float64, error) { return falseAlarms() }},
		{"numbers.wronghand.noticed_pct", "%", ">= 100", func(l *Lab) (float64, error) { n, err := l.numbers(); return n.noticed.percent(), err }},
		{"numbers.wronghand.doubted_without_reason", "cards", "<= 0", func(l *Lab) (float64, error) { n, err := l.numbers(); return float64(len(n.doubted)), err }},
		{"numbers.slips.scale.told_pct", "%", ">= 98", func(l *Lab) (float64, error) { s, err := l.slips(); return s.of("scale"), err }},
		{"numbers.slips.view.told_pct", "%", ">= 90", func(l *Lab) (float64, error) { s, err := l.slips(); return s.of("view"), err }},
		{"numbers.slips.rate.told_pct", "%", ">= 70", func(l *Lab) (float64, error) { s, err := l.slips(); return s.of("rate"), err }},
		{"numbers.slips.doubted_without_reason_pct", "%", "<= 1", func(l *Lab) (float64, error) { s, err := l.slips(); return s.wrongly(), err }},
		{"numbers.hidden.coverage_pct", "%", "93..100", func(l *Lab) (float64, error) { s, err := l.slips(); return s.covered(), err }},
		{"numbers.hidden.stated_pct", "%", ">= 50", func(l *Lab) (float64, error) { s, err := l.slips(); return s.bridged(), err }},
		{"numbers.broken_parts", "parts", "<= 0", func(l *Lab) (float64, error) { n, err := l.numbers(); return float64(len(n.broken)), err }},
		{"numbers.javelin.range_28_m", "m", "78..86", func(*Lab) (float64, error) { return javelinRange(28) }},
		{"numbers.javelin.range_30_m", "m", "86..94", func(*Lab) (float64, error) { return javelinRange(30) }},
		{"numbers.javelin.best_deg", "deg", "30..36", func(*Lab) (float64, error) { return javelinBest() }},
		{"numbers.measures.withdrawn", "readings", "<= 12", func(l *Lab) (float64, error) { n, err := l.numbers(); return float64(len(n.withdrawn())), err }},
		{"numbers.exchange.differences", "things", "<= 0", func(*Lab) (float64, error) { return exchangeDifferences() }},
		{"numbers.fuzz.panics", "panics", "<= 0", func(*Lab) (float64, error) { return fuzzPanics() }},
		{"verdict.checkpoints.measured", "checkpoints", ">= 230", func(l *Lab) (float64, error) { r, err := review(); return r.measured, err }},
		{"verdict.checkpoints.by_eye", "checkpoints", "<= 45", func(l *Lab) (float64, error) { r, err := review(); return r.byEye, err }},
		{"verdict.leads_nowhere", "concerns", "<= 0", func(l *Lab) (float64, error) { return concerns(model.LeadsNowhere, model.OwnThreshold) }},
		{"verdict.faults.measurable_target_pct", "%", ">= 85", func(l *Lab) (float64, error) { r, err := review(); return r.target.percent(), err }},
		{"verdict.opposites_merged", "faults", "<= 0", func(l *Lab) (float64, error) { return concerns(model.Opposites) }},
		{"verdict.variants.without_effect", "variants", "<= 0", func(l *Lab) (float64, error) { return concerns(model.SameVariant) }},
		{"verdict.faults.with_two_cues_pct", "%", ">= 100", func(l *Lab) (float64, error) { r, err := review(); return r.twoCues.percent(), err }},
		{"verdict.adjusted.bands", "bands", ">= 60", func(l *Lab) (float64, error) { r, err := review(); return r.adjusted, err }},
		{"verdict.highjump.measured", "checkpoints", ">= 12", func(l *Lab) (float64, error) { r, err := review(); return r.by["high-jump"], err }},
		{"verdict.polevault.measured", "checkpoints", ">= 12", func(l *Lab) (float64, error) { r, err := review(); return r.by["pole-vault"], err }},
		{"verdict.demo.stories", "events", ">= 10", func(*Lab) (float64, error) { return stories() }},
		{"verdict.lean.err_deg", "deg", "<= 2", func(l *Lab) (float64, error) {
			r, err := l.runways()
			if err != nil {
				return 0, err
			}
			return math.Max(r.off["lean"].of(), r.off["asked"].of()), nil
		}},
		{"verdict.radius.err_pct", "%", "<= 5", func(l *Lab) (float64, error) { return l.onRunway("radius", 1) }},
		{"verdict.footplace.err_cm", "cm", "<= 4", func(l *Lab) (float64, error) { return l.onRunway("before", 100) }},
		{"verdict.footplace.given_pct", "%", ">= 60", func(l *Lab) (float64, error) {
			r, err := l.runways()
			if err != nil {
				return 0, err
			}
			return r.given.percent(), nil
		}},
		{"verdict.bend_onset.frames", "frames", "<= 1", func(l *Lab) (float64, error) { return l.onRunway("onset", 1) }},
		{"verdict.runway.coverage_pct", "%", ">= 90", func(l *Lab) (float64, error) {
			r, err := l.runways()
			if err != nil {
				return 0, err
			}
			return r.coverage.percent(), nil
		}},
		{"verdict.multi.joined_right_pct", "%", ">= 98", func(l *Lab) (float64, error) { j, err := l.joinedClips(); return j.right.percent(), err }},
		{"verdict.multi.disagreement.found_pct", "%", ">= 100", func(l *Lab) (float64, error) { j, err := l.joinedClips(); return j.apart.percent(), err }},
		{"verdict.multi.joined_pct", "%", ">= 98", func(l *Lab) (float64, error) { j, err := l.joinedClips(); return j.alone.percent(), err }},
		{"throws.core_600_frames.ms", "ms", "<= 120", func(*Lab) (float64, error) { ms, _, err := ThrowTime(); return ms, err }},
		{"throws.core_600_frames.alloc_mb", "MB", "<= 60", func(*Lab) (float64, error) { _, mb, err := ThrowTime(); return mb, err }},
		{"house.suite.minutes", "min", "<= 10", func(*Lab) (float64, error) { return SuiteMinutes() }},
		{"house.places.event", "files", "<= 1", func(*Lab) (float64, error) { return Places("event") }},
		{"house.places.measure", "files", "<= 1", func(*Lab) (float64, error) { return Places("measure") }},
		{"house.places.edit", "files", "<= 1", func(*Lab) (float64, error) { return Places("edit") }},
		{"house.lint.findings", "findings", "<= 0", func(*Lab) (float64, error) { return LintFindings() }},
		{"house.race.findings", "races", "<= 0", func(*Lab) (float64, error) { return RaceFindings() }},
		{"house.internal.coverage.least_pct", "%", ">= 60", func(*Lab) (float64, error) { return InternalCoverage() }},
		{"core.coverage.pct", "%", ">= 90", func(*Lab) (float64, error) { return CoreCoverage() }},
		{"tests.share.pct", "%", "25..33.4", func(*Lab) (float64, error) { return TestShare() }},
		{"screens.axe.violations", "violations", "<= 0", func(l *Lab) (float64, error) { r, err := l.screens(); return float64(r.violations), err }},
		{"screens.keyboard.unreachable", "controls", "<= 0", func(l *Lab) (float64, error) { r, err := l.screens(); return float64(len(r.faults.Unreachable)), err }},
		{"screens.touch.small_targets", "targets", "<= 0", func(l *Lab) (float64, error) { r, err := l.screens(); return float64(len(r.faults.Small)), err }},
		{"screens.overflow.widths", "things", "<= 0", func(l *Lab) (float64, error) { r, err := l.screens(); return float64(len(r.faults.Wide)), err }},
		{"screens.texts.outside_catalogue", "texts", "<= 0", func(l *Lab) (float64, error) { r, err := l.screens(); return float64(r.outside), err }},
		{"screens.bench.warm_kb", "kB", "<= 400", func(l *Lab) (float64, error) { r, err := l.screens(); return r.warm, err }},
		{"screens.open.slow_cpu_s", "s", "<= 3", func(l *Lab) (float64, error) { r, err := l.screens(); return r.open, err }},
		{"screens.wrong_picture", "pictures", "<= 0", func(l *Lab) (float64, error) { return l.WrongPictures() }},
		{"screens.white_pages", "pages", "<= 0", func(l *Lab) (float64, error) { return l.WhitePages() }},
		{"screens.lost_edits", "edits", "<= 0", func(l *Lab) (float64, error) { return l.LostEdits() }},
		{"screens.queue.10k.first_rows_ms", "ms", "<= 300", func(l *Lab) (float64, error) { r, err := l.queue(); return r.rows, err }},
		{"screens.queue.bytes", "kB", "<= 40", func(l *Lab) (float64, error) { r, err := l.queue(); return r.kb, err }},
		{"screens.first_clip.actions", "actions", "<= 25", func(l *Lab) (float64, error) { return l.FirstClip() }},
		{"demo.address.s", "s", "<= 5", func(l *Lab) (float64, error) { r, err := l.demo(); return r.address, err }},
		{"demo.filled.s", "s", "<= 150", func(l *Lab) (float64, error) { r, err := l.demo(); return r.filled, err }},
		{"hard.certain_wrong", "faults", "<= 0", func(l *Lab) (float64, error) { r, err := l.hard(); return r.certainWrong, err }},
		{"hard.order_violations", "readings", "<= 0", func(l *Lab) (float64, error) { r, err := l.hard(); return r.orderViolations, err }},
		{"hard.sides.frames_pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.hard(); return r.sides.percent(), err }},
		{"hard.stated_contacts.within_1_frame.pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.hard(); return r.statedContacts.percent(), err }},
		{"hard.contacts.found_pct", "%", ">= 75", func(l *Lab) (float64, error) { r, err := l.hard(); return r.contactsFound.percent(), err }},
		{"hard.keypos.stated_right.pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.hard(); return r.statedAt.percent(), err }},
		{"hard.repeats.found_pct", "%", ">= 100", func(l *Lab) (float64, error) { r, err := l.hard(); return r.copies.percent(), err }},
		{"hard.rate.right_pct", "%", ">= 95", func(l *Lab) (float64, error) { r, err := l.hard(); return r.rates.percent(), err }},
		{"hard.questions.median", "answers", "<= 8", func(l *Lab) (float64, error) { r, err := l.hard(); return r.questions(), err }},
		{"hard.coverage.pct", "%", "93..98", func(l *Lab) (float64, error) { r, err := l.hard(); return r.covered.percent(), err }},
		{"hard.coverage.worst_measure.pct", "%", ">= 88", func(l *Lab) (float64, error) { r, err := l.hard(); return r.worstMeasure(), err }},
		{"hard.ball.frames_pct", "%", ">= 80", func(l *Lab) (float64, error) { r, err := l.hard(); return r.ball.percent(), err }},
		{"hard.turns.right_pct", "%", ">= 100", func(l *Lab) (float64, error) { r, err := l.hard(); return r.turns.percent(), err }},
		{"hard.person.exchanged", "clips", "<= 0", func(l *Lab) (float64, error) {
			r, err := l.hard()
			if err != nil {
				return 0, err
			}
			n, err := people()
			return r.exchanged + n, err
		}},
		{"draft.server.vs_browser.px", "px", "<= 1", func(l *Lab) (float64, error) { r, err := l.beside(); return r.px, err }},
		{"draft.server.speedup", "ratio", ">= 3", func(l *Lab) (float64, error) { r, err := l.beside(); return r.speedup, err }},
		{"draft.thirty.minutes", "min", "<= 12", func(*Lab) (float64, error) { return ThirtyClips() }},
	}
}

// Run measures the figures whose names begin with one of the prefixes (all when
// there is none) and prints them. It gives the lines, the tables behind those of numbers if they
// were measured, and how many fell short.
func Run(w io.Writer, prefixes []string) (lines []string, tables string, short int, err error) {
	lab := &Lab{}
	defer lab.Close()
	for _, f := range All() {
		wanted := len(prefixes) == 0
		for _, p := range prefixes {
			wanted = wanted || strings.HasPrefix(f.Name, p)
		}
		if !wanted {
			continue
		}
		v, err := f.Measure(lab)
		line := f.line(v)
		if err != nil {
			why, _, _ := strings.Cut(err.Error(), "\n")
			line = fmt.Sprintf("%s - %s %s short (could not be measured: %s)", f.Name, f.Unit, f.bare(), why)
		}
		if err != nil || !f.Pass(v) {
			short++
		}
		fmt.Fprintln(w, line)
		lines = append(lines, line)
	}
	if lab.told != nil {
		tables = lab.told.tables()
	}
	return lines, tables, short, nil
}

func (f Figure) bare() string { return strings.ReplaceAll(f.Target, " ", "") }

func (f Figure) line(v float64) string {
	verdict := "pass"
	if !f.Pass(v) {
		verdict = "short"
	}
	return fmt.Sprintf("%s %.4g %s %s %s", f.Name, math.Round(v*1e4)/1e4, f.Unit, f.bare(), verdict)
}

// Between these lines of the document stand the tables.
const (
	tablesBegin = "<!-- tables of numbers: written by the command -->\n"
	tablesEnd   = "<!-- end of the tables -->\n"
)

// PutTables writes tables into a document, between two lines that say so.
func PutTables(doc, tables string) (string, error) {
	head, rest, ok := strings.Cut(doc, tablesBegin)
	_, tail, ok2 := strings.Cut(rest, tablesEnd)
	if !ok || !ok2 {
		return "", errors.New("the document has no place for the tables")
	}
	return head + tablesBegin + "\n" + tables + "\n" + tablesEnd + tail, nil
}

// Put writes lines into a document: into its first block of code, in the order of the
// figures, each in place of the older line of its name. A figure that was never measured
// says so, and one that is promised no more goes.
func Put(doc string, lines []string) (string, error) {
	head, rest, ok := strings.Cut(doc, "```\n")
	block, tail, ok2 := strings.Cut(rest, "```")
	if !ok || !ok2 {
		return "", errors.New("the document has no block of code for the figures")
	}
	name := func(line string) string { n, _, _ := strings.Cut(line, " "); return n }
	last := map[string]string{}
	for _, l := range append(strings.Split(strings.TrimSpace(block), "\n"), lines...) {
		last[name(l)] = l
	}
	var out strings.Builder
	for _, f := range All() {
		l, ok := last[f.Name]
		if !ok {
			l = fmt.Sprintf("%s - %s %s short (not measured)", f.Name, f.Unit, f.bare())
		}
		out.WriteString(l + "\n")
	}
	return head + "```\n" + out.String() + "```" + tail, nil
}

// Lab holds a running application and a browser, opened on first use.
type Lab struct {
	h         *testenv.House
	browser   *rod.Browser
	ends      []func()
	imported  *importFigures
	handled   *handFigures
	judged    *judgement
	deep      *depth
	discs     *discs
	simulated *simulation
	posed     *poses
	digital   *digitised
	followed  *followed
	hardSet   *hardness
	told      *numbers
	slipped   *slips
	joined    *joinedness
	planned   *planned
	slid      *slid
	runway    *onRunways
	besides   *serverDraft
	kept      *kept
	crowded   *crowded
	access    *access
	crashed   *crashes
	mangled   *mangled
	fuzzed    *fuzzed
	packed    *packed
	loaded    *loaded
	screened  *screened
	queued    *queued
	begun     *begun
}

// House opens the application.
func (l *Lab) House() *testenv.House {
	if l.h == nil {
		h, end := testenv.Open("")
		l.h = h
		l.ends = append(l.ends, end)
	}
	return l.h
}

// Browser opens Chromium.
func (l *Lab) Browser() (*rod.Browser, error) {
	if l.browser == nil {
		b, end, err := testenv.Browser()
		if err != nil {
			return nil, err
		}
		l.browser = b
		l.ends = append(l.ends, end)
	}
	return l.browser, nil
}

// Close ends what was opened.
func (l *Lab) Close() {
	for i := len(l.ends) - 1; i >= 0; i-- {
		l.ends[i]()
	}
}

// Root is the folder of the checkout, found from where the process runs.
func Root() string {
	dir, err := os.Getwd()
	if err != nil {
		return "."
	}
	for d := dir; d != "/"; d = filepath.Dir(d) {
		if _, err := os.Stat(filepath.Join(d, "go.mod")); err == nil {
			return d
		}
	}
	return dir
}
