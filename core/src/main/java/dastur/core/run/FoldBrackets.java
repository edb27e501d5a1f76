package dastur.core.run;

import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import dastur.core.workflow.Step.Ending;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;

/** Folds what happens to brackets, their lines, putting back, and the end of runs. */
final class FoldBrackets {
    private FoldBrackets() {}

    static Case opened(Case c, Recorded r, Event.BracketOpened e) {
        boolean each = e.bracket().equals("for each");
        int begun = each ? Math.min(e.count(), e.atOnce()) : e.begins().size();
        Waiting lines = new Waiting.Lines(
                e.bracket(),
                e.count(),
                e.needed(),
                e.atOnce(),
                e.stopAtFirst(),
                e.item(),
                e.begins(),
                e.items() == null ? List.of() : e.items(),
                begun,
                new TreeMap<>(),
                null,
                false);
        List<Alarm> alarms = e.due() == null ? List.of() : List.of(new Alarm(e.due(), AlarmKind.TIMEOUT, 0, null));
        return Fold.onRun(Fold.opened(c, r, lines, alarms), r, run -> {
            List<Token> ready = new ArrayList<>(run.ready());
            for (int i = 0; i < begun; i++) {
                StepId to = e.begins().get(each ? 0 : i).to();
                ready.add(new Token(to, new Place(r.visit(), i)));
            }
            return run.withReady(ready);
        });
    }

    static Case lineBegan(Case c, Recorded r, Event.LineBegan e) {
        Case counted = Fold.onVisit(
                c,
                r,
                v -> v.waiting() instanceof Waiting.Lines lines
                        ? v.waitingFor(lines.begunUpTo(e.index() + 1)).without(AlarmKind.PAUSE)
                        : v);
        return Fold.onRun(counted, r, run -> {
            Visit bracket = run.open().get(r.visit());
            boolean rounds = bracket != null
                    && bracket.waiting() instanceof Waiting.Lines lines
                    && lines.bracket().equals("repeat");
            List<Token> ready = new ArrayList<>(run.ready());
            // All rounds of a repeat share their values, so that a round sees what the one before it found.
            ready.add(new Token(e.to(), new Place(r.visit(), rounds ? 0 : e.index())));
            return run.withReady(ready);
        });
    }

    static Case lineEnded(Case c, Recorded r, Event.LineEnded e) {
        return Fold.onVisit(c, r, v -> lineEnded(v, e.index(), e.done(), e.result()));
    }

    private static Visit lineEnded(Visit bracket, int index, boolean done, String result) {
        if (!(bracket.waiting() instanceof Waiting.Lines lines)) {
            return bracket;
        }
        int line = lines.bracket().equals("repeat") ? lines.begun() - 1 : index;
        return bracket.waitingFor(lines.ended(line, new Waiting.LineEnd(done, result)));
    }

    static Case roundJudged(Case c, Recorded r, Event.RoundJudged e) {
        return Fold.onVisit(c, r, v -> {
            if (!(v.waiting() instanceof Waiting.Lines lines)) {
                return v;
            }
            Visit judged = v.waitingFor(lines.paused());
            if (e.nextAt() == null) {
                return judged;
            }
            List<Alarm> alarms = new ArrayList<>(judged.alarms());
            alarms.add(new Alarm(e.nextAt(), AlarmKind.PAUSE, 0, null));
            return judged.alarmed(alarms);
        });
    }

    static Case ended(Case c, Recorded r, Event.Ended e) {
        Ending ending = e.ending() != null ? e.ending() : e.stopsRun() ? Ending.RUN : Ending.LINE;
        return Fold.onRun(c, r, run -> {
            Run open = Fold.open(run, r, null);
            Visit visit = open.open().get(r.visit());
            Run closed = Fold.close(open, r, null, null);
            Place place = visit.place();
            Visit bracket = place == null ? null : closed.open().get(place.bracket());
            if (bracket == null || !(bracket.waiting() instanceof Waiting.Lines)) {
                return closed;
            }
            Visit after = lineEnded(bracket, place.index(), ending != Ending.FAILED, e.result());
            if (ending == Ending.LEAVE) {
                after = after.waitingFor(((Waiting.Lines) after.waiting()).leftBy(e.result()));
            }
            return closed.with(after);
        });
    }

    /** Takes the bracket away with everything that still stood in it, and gives its values to what is around it. */
    static Case bracketLeft(Case c, Recorded r, Event.BracketLeft e) {
        return Fold.onRun(c, r, run -> {
            Visit bracket = Objects.requireNonNull(run.open().get(r.visit()));
            boolean list =
                    bracket.waiting() instanceof Waiting.Lines l && l.bracket().equals("for each");
            Run merged = Guards.left(merged(run, bracket, r, e), bracket, list);
            Run emptied = emptied(merged, bracket.id());
            return Fold.close(forgotten(emptied, bracket.id()), r, e.to(), null);
        });
    }

    /**
     * A bracket that is withdrawn takes with it what stood before steps inside it, and the values of its inside. What was
     * done in a stage stays done, so what would put it back becomes the matter of the stage around it, or of the run.
     */
    static Run withdrawn(Run run, Recorded r) {
        VisitId bracket = r.visit();
        if (bracket == null) {
            return Fold.close(run, r, null, null);
        }
        List<Token> left = run.ready().stream()
                .filter(t -> !run.inside(t.place(), bracket))
                .toList();
        TreeMap<String, Map<String, Map<String, Object>>> inner = new TreeMap<>(run.inner());
        inner.keySet().removeIf(scope -> bracketOf(scope).equals(bracket));
        Visit visit = run.open().get(bracket);
        VisitId outer = visit == null
                ? null
                : PutBacks.stageAround(run, visit.place()).map(Visit::id).orElse(null);
        Run unbound = visit == null ? run : Guards.withdrawn(run, visit);
        Run handedOn = unbound.withReady(left)
                .withInner(inner)
                .withPutBacks(run.putBacks().stream()
                        .map(p -> bracket.equals(p.stage()) ? p.movedTo(outer) : p)
                        .toList())
                .withPuttingBack(run.puttingBack().stream()
                        .filter(p -> !bracket.equals(p.stage()))
                        .toList());
        return Fold.close(handedOn, r, null, null);
    }

    private static VisitId bracketOf(String scope) {
        return new VisitId(scope.substring(0, scope.indexOf('/')));
    }

    private static Run emptied(Run run, VisitId bracket) {
        TreeMap<VisitId, Visit> open = new TreeMap<>(run.open());
        open.values().removeIf(v -> run.inside(v.place(), bracket));
        TreeMap<String, Map<String, Map<String, Object>>> inner = new TreeMap<>(run.inner());
        inner.keySet().removeIf(scope -> {
            VisitId of = bracketOf(scope);
            return of.equals(bracket) || !open.containsKey(of);
        });
        return run.withReady(run.ready().stream()
                        .filter(t -> !run.inside(t.place(), bracket))
                        .toList())
                .withOpen(open)
                .withInner(inner);
    }

    /** Leaving a stage forgets what could be put back in it; what a person left as it is stays known to the run. */
    private static Run forgotten(Run run, VisitId stage) {
        List<Run.PutBack> kept = new ArrayList<>();
        for (Run.PutBack p : run.putBacks()) {
            if (!stage.equals(p.stage())) {
                kept.add(p);
            } else if (p.givenUp()) {
                kept.add(p.movedTo(null));
            }
        }
        return run.withPutBacks(kept);
    }

    private static Run merged(Run run, Visit bracket, Recorded r, Event.BracketLeft e) {
        Waiting.Lines lines = (Waiting.Lines) bracket.waiting();
        Place outer = bracket.place();
        Map<String, Object> values = r.outcome(e.exit());
        Map<String, Map<String, Object>> around =
                new HashMap<>(outer == null ? run.steps() : run.inner().getOrDefault(outer.scope(), Map.of()));
        if (lines.bracket().equals("for each")) {
            values.put("count", (long) lines.count());
            values.put("succeeded", (long) lines.done());
            values.put("failed", (long) lines.failed());
            values.put("items", items(run, bracket.id(), lines));
        } else {
            int places = lines.bracket().equals("repeat") ? 1 : lines.begins().size();
            for (int i = 0; i < places; i++) {
                around.putAll(run.inner().getOrDefault(new Place(bracket.id(), i).scope(), Map.of()));
            }
            if (lines.bracket().equals("fork")) {
                values.put("done", (long) lines.done());
                values.put("failed", (long) lines.failed());
            }
            if (lines.bracket().equals("repeat")) {
                values.put("rounds", (long) lines.begun());
            }
        }
        around.put(bracket.step().value(), values);
        return run.withScope(outer, around);
    }

    /** What became of each item, in the order of the list (D10). */
    private static List<Object> items(Run run, VisitId bracket, Waiting.Lines lines) {
        List<Object> items = new ArrayList<>();
        for (int i = 0; i < lines.count(); i++) {
            Waiting.LineEnd end = lines.ended().get(i);
            Map<String, Object> one = new TreeMap<>();
            one.put("item", lines.items().get(i));
            one.put("outcome", end == null ? "withdrawn" : end.done() ? "done" : "failed");
            one.put("result", end == null ? "" : end.result());
            one.put("steps", run.inner().getOrDefault(new Place(bracket, i).scope(), Map.of()));
            items.add(one);
        }
        return items;
    }

    // --- putting back

    static Case putBackBegan(Case c, Recorded r, Event.PutBackBegan e) {
        return Fold.onRun(c, r, run -> {
            List<Run.PuttingBack> all = new ArrayList<>(run.puttingBack());
            all.add(new Run.PuttingBack(r.visit(), e.all(), e.exit(), e.stopped()));
            List<Token> left = run.ready().stream()
                    .filter(t -> r.visit() != null && !run.inside(t.place(), r.visit()))
                    .toList();
            return run.withPuttingBack(all).withReady(left);
        });
    }

    static Case putBackEnded(Case c, Recorded r) {
        return Fold.onRun(
                c,
                r,
                run -> run.withPuttingBack(run.puttingBack().stream()
                        .filter(p -> !Objects.equals(p.stage(), r.visit()))
                        .toList()));
    }

    // --- the end of runs

    /** Takes the run away, and tells its caller, if it is on the same ticket, how it ended. */
    static Case runEnded(Case c, Recorded r, Event.RunEnded e) {
        Run run = r.run() == null ? null : c.open().get(r.run());
        if (run == null) {
            return c;
        }
        return Fold.withRuns(c, runs -> {
            runs.remove(run.id());
            VisitId parent = run.parent();
            Run caller = parent == null ? null : runs.get(parent.run());
            Visit visit = caller == null ? null : caller.open().get(parent);
            if (visit != null && visit.waiting() instanceof Waiting.Called called) {
                Map<String, Object> results = e.results() == null ? Map.of() : e.results();
                runs.put(
                        caller.id(),
                        caller.with(visit.waitingFor(
                                new Waiting.Called(called.run(), true, e.result(), e.stopped(), results))));
            }
        });
    }
}
