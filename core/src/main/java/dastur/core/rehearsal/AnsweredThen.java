package dastur.core.rehearsal;

import dastur.core.people.Actor;
import dastur.core.rehearsal.Answer.Says;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.time.Span;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.StepId;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What people and machines answered in a run, by the visits of each step, with the time it took them. What a machine was asked
 * again and again in one visit is said again as it was last: how often depends on the clock.
 */
final class AnsweredThen {
    /** What only people say, each of which counts. */
    private static final Set<Says> OF_PEOPLE = EnumSet.of(Says.APPROVES, Says.DECLINES, Says.REVIEWS);

    private final Map<StepId, Deque<Deque<Answer>>> visits = new LinkedHashMap<>();
    private final Map<VisitId, Deque<Answer>> begun = new LinkedHashMap<>();
    private final Map<VisitId, Answer> last = new HashMap<>();

    private AnsweredThen() {}

    static AnsweredThen of(List<Recorded> record, RunId run) {
        AnsweredThen then = new AnsweredThen();
        Map<VisitId, Recorded> since = new HashMap<>();
        Map<VisitId, Deque<Answer>> known = new HashMap<>();
        for (Recorded r : record) {
            if (!run.equals(r.run()) || r.visit() == null || r.step() == null) {
                continue;
            }
            since.putIfAbsent(r.visit(), r);
            if (asksAnew(r)) {
                since.put(r.visit(), r);
                continue;
            }
            // Since it was opened, asked anew, or answered before: each answer is given after the one before it.
            Span took = span(Duration.between(since.get(r.visit()).at(), r.at()));
            Optional<Answer> answer = answered(r, took);
            if (answer.isPresent()) {
                since.put(r.visit(), r);
                known.computeIfAbsent(r.visit(), v -> then.visit(r.step())).add(answer.get());
            }
        }
        return then;
    }

    private Deque<Answer> visit(StepId step) {
        Deque<Answer> answers = new ArrayDeque<>();
        visits.computeIfAbsent(step, k -> new ArrayDeque<>()).add(answers);
        return answers;
    }

    /**
     * What was answered then; null where nothing was.
     *
     * @param onlyClock whether the visit waits, for the moment, for nothing but its time: what was answered is answered after that
     */
    @Nullable Answer next(Visit visit, boolean onlyClock) {
        Deque<Deque<Answer>> ofStep = visits.getOrDefault(visit.step(), new ArrayDeque<>());
        Deque<Answer> known = begun.containsKey(visit.id()) ? begun.get(visit.id()) : ofStep.peek();
        Answer answer = known == null ? null : known.peek();
        if (onlyClock && (answer == null || answer.says() != Says.NOTHING)) {
            return null;
        }
        if (!begun.containsKey(visit.id())) {
            ofStep.poll();
            begun.put(visit.id(), known == null ? new ArrayDeque<>() : known);
        }
        begun.get(visit.id()).poll();
        if (answer == null && visit.waiting().machine()) {
            return last.get(visit.id());
        }
        if (answer != null) {
            last.put(visit.id(), answer);
        }
        return answer;
    }

    /** Steps of which something that was answered then was not asked again. */
    List<StepId> left() {
        Stream<StepId> whole =
                visits.entrySet().stream().filter(e -> !e.getValue().isEmpty()).map(Map.Entry::getKey);
        Stream<StepId> parts = begun.values().stream()
                .flatMap(Deque::stream)
                .filter(a -> OF_PEOPLE.contains(a.says()))
                .map(Answer::step);
        return Stream.concat(whole, parts).distinct().toList();
    }

    /** That the clock was waited for is nobody's answer, and of no kind of step. */
    private static Optional<Answer> answered(Recorded r, Span took) {
        if (r.event() instanceof Event.Left e) {
            return e.exit().equals("overdue") || e.exit().equals("lapsed")
                    ? Optional.of(Answer.of(r.step(), Says.NOTHING))
                    : Optional.empty();
        }
        List<Rehearses<?>> kinds = Kinds.as(Rehearses.class);
        Optional<Answer> answer = kinds.stream()
                .flatMap(k -> k.answered(r.step(), r.event(), took).stream())
                .findFirst();
        // What the clock said is said by it again: nobody answers.
        return r.actor() instanceof Actor.Clock ? answer.map(a -> Answer.of(a.step(), Says.NOTHING)) : answer;
    }

    private static boolean asksAnew(Recorded r) {
        List<Rehearses<?>> kinds = Kinds.as(Rehearses.class);
        return kinds.stream().anyMatch(k -> k.asksAnew(r.event()));
    }

    private static Span span(Duration took) {
        long seconds = Math.clamp(took.toSeconds(), 1, 999_999);
        return new Span(seconds, Span.Unit.SECOND, false);
    }
}
