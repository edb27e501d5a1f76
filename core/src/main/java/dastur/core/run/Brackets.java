package dastur.core.run;

import dastur.core.expression.Clause;
import dastur.core.expression.Outcome;
import dastur.core.expression.Verdict;
import dastur.core.people.Actor;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Level;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/** Entering brackets, going on with their lines, and leaving them (N18; D8–D10). */
final class Brackets {
    private final Deciding d;

    Brackets(Deciding d) {
        this.d = d;
    }

    // --- entering

    void open(Position position, VisitId visit, Bracket bracket) {
        switch (bracket) {
            case Bracket.Stage s -> opened(position, visit, s, "stage", 1, 1, 1, List.of(begin(s.name(), s.body())));
            case Bracket.Fork f -> fork(position, visit, f);
            case Bracket.ForEach e -> forEach(position, visit, e);
            case Bracket.Repeat r -> {
                Instant due = r.within() == null ? null : new Times(d, position, null).after(r.within());
                d.emit(
                        Actor.SYSTEM,
                        position.id(),
                        r.id(),
                        visit,
                        new Event.BracketOpened(
                                "repeat",
                                r.name(),
                                r.rounds(),
                                1,
                                1,
                                false,
                                null,
                                List.of(begin(r.name(), r.body())),
                                due,
                                null));
            }
        }
    }

    private void opened(
            Position position,
            VisitId visit,
            Bracket bracket,
            String kind,
            int count,
            int needed,
            int atOnce,
            List<Waiting.Begin> begins) {
        d.emit(
                Actor.SYSTEM,
                position.id(),
                bracket.id(),
                visit,
                new Event.BracketOpened(kind, bracket.name(), count, needed, atOnce, false, null, begins, null, null));
    }

    private static Waiting.Begin begin(String name, Level body) {
        if (body.steps().isEmpty()) {
            throw new CannotOpen("empty", "'" + name + "' has no steps inside.");
        }
        return new Waiting.Begin(name, body.steps().getFirst().id());
    }

    private void fork(Position position, VisitId visit, Bracket.Fork fork) {
        List<Waiting.Begin> begins = new ArrayList<>();
        for (Bracket.Lane lane : fork.lanes()) {
            boolean open = lane.when() == null
                    || lane.when().isBlank()
                    || d.expressions(position.run())
                                    .explain(lane.when(), d.scope(position))
                                    .verdict()
                            == Verdict.TRUE;
            if (open) {
                begins.add(begin(lane.name(), lane.body()));
            }
        }
        int needed = fork.first() == null ? begins.size() : Math.min(fork.first(), begins.size());
        opened(position, visit, fork, "fork", begins.size(), needed, Math.max(1, begins.size()), begins);
    }

    private static CannotOpen noList(Bracket.ForEach each) {
        return new CannotOpen(
                "no list", "'" + each.list() + "' gives no list for '" + each.name() + "'. Mend it, then retry.");
    }

    private void forEach(Position position, VisitId visit, Bracket.ForEach each) {
        Outcome outcome = Opening.evaluate(d, position, each.list());
        List<Object> items =
                switch (outcome) {
                    case Outcome.Value v when v.value() instanceof List<?> list -> List.copyOf(list);
                    case Outcome.Absent a -> List.of();
                    case Outcome.Value v -> throw noList(each);
                    case Outcome.Failed f -> throw noList(each);
                };
        if (items.size() > Bracket.ForEach.MAX_ITEMS) {
            throw new CannotOpen(
                    "too many items",
                    "'" + each.name() + "' has " + items.size() + " items; " + Bracket.ForEach.MAX_ITEMS
                            + " is the most.");
        }
        d.emit(
                Actor.SYSTEM,
                position.id(),
                each.id(),
                visit,
                new Event.BracketOpened(
                        "for each",
                        each.name(),
                        items.size(),
                        items.size(),
                        each.atOnce(),
                        each.stopAtFirst(),
                        each.item(),
                        List.of(begin(each.name(), each.body())),
                        null,
                        items));
    }

    // --- going on

    /** Lets every bracket go on whose lines have ended, until none has anything left to do. */
    void settle() {
        boolean more = true;
        while (more) {
            more = false;
            for (Visit visit : openBrackets()) {
                more |= d.now().visit(visit.id()).filter(this::settle).isPresent();
            }
        }
    }

    /** Inner ones first: what they end may end the outer. */
    private List<Visit> openBrackets() {
        return d.now().open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null && v.waiting() instanceof Waiting.Lines)
                .sorted(Comparator.comparing(Visit::id).reversed())
                .toList();
    }

    private boolean settle(Visit visit) {
        Waiting.Lines lines = (Waiting.Lines) visit.waiting();
        Bracket bracket = (Bracket) d.step(visit);
        if (new PutBacks(d).puttingBack(visit)) {
            return false;
        }
        if (lines.leaveBy() != null) {
            return leave(visit, lines.leaveBy(), "an end inside led out by it");
        }
        return switch (bracket) {
            case Bracket.Stage s -> stage(visit, lines);
            case Bracket.Fork f -> fork(visit, lines);
            case Bracket.ForEach e -> forEach(visit, e, lines);
            case Bracket.Repeat r -> repeat(visit, r, lines);
        };
    }

    private boolean stage(Visit visit, Waiting.Lines lines) {
        if (lines.ended().isEmpty()) {
            return false;
        }
        if (lines.failed() == 0) {
            return leave(visit, "done", "its line was done");
        }
        return leaveOrStall(visit, "failed", "Its line failed, and no way leads on from 'failed'.");
    }

    private boolean fork(Visit visit, Waiting.Lines lines) {
        if (lines.done() >= lines.needed()) {
            return leave(visit, "joined", lines.done() + " of " + lines.count() + " lanes are done");
        }
        int possible = lines.done() + lines.count() - lines.ended().size();
        return possible < lines.needed()
                && leaveOrStall(
                        visit,
                        "short",
                        lines.needed() + " lanes must be done, but only " + possible
                                + " still can be, and no way leads on from 'short'.");
    }

    private boolean forEach(Visit visit, Bracket.ForEach each, Waiting.Lines lines) {
        if (lines.count() == 0) {
            return leave(visit, "none", "the list was empty");
        }
        if (lines.stopAtFirst() && lines.failed() > 0) {
            return leave(visit, "some failed", "it stops at the first failure");
        }
        if (lines.ended().size() == lines.count()) {
            String counts = lines.done() + " done, " + lines.failed() + " failed";
            return leave(visit, lines.failed() == 0 ? "all ok" : "some failed", counts);
        }
        if (lines.begun() < lines.count() && lines.underWay() < lines.atOnce()) {
            StepId first = each.body().steps().getFirst().id();
            d.emit(Actor.SYSTEM, visit, new Event.LineBegan(lines.begun(), first));
            return true;
        }
        return false;
    }

    private boolean repeat(Visit visit, Bracket.Repeat repeat, Waiting.Lines lines) {
        if (lines.judged() || lines.ended().size() < lines.begun()) {
            return false;
        }
        Position inside = new Position(d.run(visit.id().run()), new Place(visit.id(), 0));
        Clause.Explained explained = d.expressions(inside.run()).explain(repeat.until(), d.scope(inside));
        boolean holds = explained.verdict() == Verdict.TRUE;
        boolean last = lines.begun() >= repeat.rounds();
        Instant next = holds || last || repeat.pause() == null
                ? null
                : new Times(d, d.position(visit), null).after(repeat.pause());
        d.emit(Actor.SYSTEM, visit, new Event.RoundJudged(lines.begun(), holds, next, explained));
        if (holds) {
            return leave(visit, "done", "its condition holds after " + rounds(lines.begun()));
        }
        if (last) {
            return leave(visit, "gave up", "its condition does not hold after " + rounds(lines.begun()));
        }
        if (next == null) {
            nextRound(visit);
        }
        return true;
    }

    private static String rounds(int count) {
        return count == 1 ? "1 round" : count + " rounds";
    }

    /** Begins a further round of a repeat. */
    void nextRound(Visit visit) {
        Waiting.Lines lines = (Waiting.Lines) visit.waiting();
        d.emit(
                Actor.SYSTEM,
                visit,
                new Event.LineBegan(lines.begun(), lines.begins().getFirst().to()));
    }

    /**
     * A line may vanish where an exit leads nowhere; publishing prevents that, a rehearsal of a draft does not. Then the
     * bracket says so instead of waiting for ever (law 2).
     */
    void noticeVanished() {
        for (Visit visit : openBrackets()) {
            Run run = d.run(visit.id().run());
            boolean goesOn = run.open().values().stream().anyMatch(v -> run.inside(v.place(), visit.id()))
                    || run.ready().stream().anyMatch(t -> run.inside(t.place(), visit.id()))
                    || visit.alarms().stream().anyMatch(a -> a.kind() == Visit.AlarmKind.PAUSE)
                    || new PutBacks(d).puttingBack(visit);
            if (!goesOn) {
                String why = "A line inside '" + d.step(visit).name() + "' came to an exit that leads nowhere.";
                d.emit(Actor.SYSTEM, visit, new Event.Stalled("no way", why));
            }
        }
        for (Run run : List.copyOf(d.now().open().values())) {
            if (run.open().isEmpty()
                    && run.ready().isEmpty()
                    && run.puttingBack().isEmpty()) {
                new RunEnds(d).end(run.id(), "led nowhere");
            }
        }
    }

    // --- leaving

    private boolean leaveOrStall(Visit visit, String exit, String why) {
        if (Deciding.way(d.step(visit), exit) != null || endsItem(d.position(visit))) {
            return leave(visit, exit, why);
        }
        d.emit(Actor.SYSTEM, visit, new Event.Stalled(exit, why));
        return true;
    }

    /** Whether an unwired failure at a place ends the item of a for each as failed (D10). */
    boolean endsItem(Position position) {
        return Optional.ofNullable(position.place())
                .map(p -> position.run().open().get(p.bracket()))
                .filter(v -> v.waiting() instanceof Waiting.Lines lines
                        && lines.bracket().equals("for each"))
                .isPresent();
    }

    /** Leaves a bracket: what is still open in it is withdrawn in the order of the lanes (D9). */
    boolean leave(Visit visit, String exit, String why) {
        withdrawInside(visit, "'" + d.step(visit).name() + "' was left by '" + exit + "'", false);
        Run run = d.run(visit.id().run());
        boolean offForNow = run.putBacks().stream()
                .anyMatch(p -> p.waitsForSuccess() && visit.id().equals(p.stage()));
        if (offForNow) {
            new PutBacks(d).begin(run, visit, false, exit, false);
        } else {
            left(visit, exit, why);
        }
        return true;
    }

    /**
     * Withdraws lane by lane, inner brackets before those around them, so that each still finds where it stood.
     *
     * @param keepCalls whether calls that are under way are waited for instead (D16)
     */
    void withdrawInside(Visit bracket, String why, boolean keepCalls) {
        Run run = d.run(bracket.id().run());
        run.open().values().stream()
                .filter(v -> run.inside(v.place(), bracket.id()))
                .filter(v -> !keepCalls || !PutBacks.waitedFor(run, v))
                .sorted(Comparator.comparingInt((Visit v) -> laneOf(run, v, bracket.id()))
                        .thenComparing(Visit::id, Comparator.reverseOrder()))
                .forEach(v -> d.withdraw(Actor.SYSTEM, v, why));
    }

    private static int laneOf(Run run, Visit visit, VisitId bracket) {
        return run.chain(visit.place()).stream()
                .filter(p -> p.bracket().equals(bracket))
                .mapToInt(Place::index)
                .findFirst()
                .orElse(0);
    }

    void left(Visit visit, String exit, String why) {
        Waiting.Lines lines =
                (Waiting.Lines) d.now().visit(visit.id()).orElseThrow().waiting();
        StepId to = Deciding.way(d.step(visit), exit);
        d.emit(Actor.SYSTEM, visit, new Event.BracketLeft(exit, to, lines.done(), lines.failed(), why));
        if (to == null) {
            lineEnded(visit, exit);
        }
    }

    /** An exit that leads nowhere inside a bracket ends its line: as failed unless the exit is a good one. */
    void lineEnded(Visit visit, String exit) {
        Place place = visit.place();
        if (place != null) {
            Run run = d.run(visit.id().run());
            Visit around = run.open().get(place.bracket());
            boolean failed = List.of("failed", "short", "gave up", "stopped", "timed out")
                    .contains(exit);
            d.emit(Actor.SYSTEM, around, new Event.LineEnded(place.index(), !failed, exit));
        }
    }
}
