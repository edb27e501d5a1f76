package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.people.PersonId;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/**
 * One execution of a workflow version for a ticket, while it is open.
 *
 * @param parent the visit that called it; null when nothing did
 * @param ready what stands before steps not yet opened
 * @param visits how many visits there were
 * @param steps the values of the last finished visit of each step of the top level (D10)
 * @param inner the same inside brackets that are open, by place
 * @param guards approvals whose guarded call has not yet started (D19)
 * @param putBacks what could be put back, in the order of completion (D16)
 * @param puttingBack what is being put back now
 * @param heldSince since when a person holds it; null when nobody does
 * @param lastDone the outcome that could be taken back still; null when none could
 */
public record Run(
        RunId id,
        WorkflowKey workflow,
        int version,
        String name,
        PersonId owner,
        Instant startedAt,
        @Nullable TriggerId trigger,
        int depth,
        @Nullable VisitId parent,
        List<Token> ready,
        int visits,
        TreeMap<VisitId, Visit> open,
        Map<String, Object> inputs,
        Map<String, Object> vars,
        Map<String, Map<String, Object>> steps,
        TreeMap<String, Map<String, Map<String, Object>>> inner,
        List<Guard> guards,
        List<PutBack> putBacks,
        List<PuttingBack> puttingBack,
        @Nullable Instant heldSince,
        @Nullable Undoable lastDone) {
    /**
     * An outcome with what it takes to take it back.
     *
     * @param visit as it was before
     * @param seen the step's values before; null when there were none
     * @param visits how many visits there were; later ones followed from it
     */
    public record Undoable(Visit visit, @Nullable Map<String, Object> seen, int visits, Instant at, PersonId by) {}

    /**
     * What people approved, and what the next call that changes the world still depends on.
     *
     * @param name of the approval
     * @param place the line it was asked in
     * @param shown what it showed, whether or not there was a value
     * @param begunAt lines inside of its own in which such a call has begun
     * @param allows what machines may do by it; none of what was kept before approvals said so
     */
    public record Guard(
            StepId approval,
            String name,
            @Nullable Place place,
            List<String> shown,
            Map<String, Object> values,
            Set<Place> begunAt,
            @Nullable List<Agreed> allows) {
        /** What means the same whichever item of a list it is about. */
        private static final Set<String> OF_ALL_ITEMS = Set.of("ticket", "ci", "vars");

        public Guard {
            shown = List.copyOf(shown);
            values = Map.copyOf(values);
            begunAt = Set.copyOf(begunAt);
            allows = allows == null ? List.of() : List.copyOf(allows);
        }

        Guard begunAt(Place other) {
            Set<Place> all = new HashSet<>(begunAt);
            all.add(other);
            return new Guard(approval, name, place, shown, values, all, allows);
        }

        /** Lines that are no more are told by the one around them. */
        Guard begunAround(Predicate<Place> gone, Place around) {
            Set<Place> all = new HashSet<>(begunAt);
            all.removeIf(gone);
            all.add(around);
            return new Guard(approval, name, place, shown, values, all, allows);
        }

        Guard movedTo(@Nullable Place outer, boolean fromAnItem) {
            List<String> kept = shown.stream()
                    .filter(path -> !fromAnItem || OF_ALL_ITEMS.contains(path.split("\\.")[0]))
                    .toList();
            Map<String, Object> same = new HashMap<>(values);
            same.keySet().retainAll(kept);
            return new Guard(approval, name, outer, kept, same, begunAt, allows);
        }
    }

    /**
     * Undoes a completed visit.
     *
     * @param stage the visit of the stage it belongs to; null when it belongs to the run
     * @param of the completed visit
     * @param inputs frozen when it was completed
     * @param always whether it is put back on success too
     * @param givenUp whether a person left it as it is
     */
    public record PutBack(
            @Nullable VisitId stage,
            VisitId of,
            StepId step,
            String name,
            ActionKey action,
            Map<String, Object> inputs,
            boolean always,
            boolean givenUp) {
        /** Whether it is still to be put back when all goes well. */
        boolean waitsForSuccess() {
            return always && !givenUp;
        }

        PutBack movedTo(@Nullable VisitId otherStage) {
            return new PutBack(otherStage, of, step, name, action, inputs, always, givenUp);
        }

        PutBack gaveUp() {
            return new PutBack(stage, of, step, name, action, inputs, always, true);
        }
    }

    /**
     * A stage, or the run, is being put back.
     *
     * @param stage null for the run
     * @param all whether everything is, or only what is put back on success too
     * @param exit how the stage or run ends afterwards
     * @param stopped whether a person stopped the run
     */
    public record PuttingBack(@Nullable VisitId stage, boolean all, String exit, boolean stopped) {}

    @JsonIgnore
    public boolean stalled() {
        return open.values().stream().anyMatch(v -> v.stall() != null);
    }

    /** What is switched off for a time and not yet put back. */
    @JsonIgnore
    public List<String> offForNow() {
        return putBacks.stream().filter(PutBack::always).map(PutBack::name).toList();
    }

    /** What stays switched off although it should not: it stands out at the end. */
    List<String> stillOff() {
        return putBacks.stream()
                .filter(p -> p.always() || p.givenUp())
                .map(PutBack::name)
                .toList();
    }

    /** From a place outwards: itself, what is around it, and so on. */
    List<Place> chain(@Nullable Place place) {
        List<Place> chain = new ArrayList<>();
        Place at = place;
        while (at != null) {
            chain.add(at);
            Visit bracket = open.get(at.bracket());
            at = bracket == null ? null : bracket.place();
        }
        return chain;
    }

    /** Whether a place is inside a bracket's visit, at any depth. */
    boolean inside(@Nullable Place place, VisitId bracket) {
        return chain(place).stream().anyMatch(p -> p.bracket().equals(bracket));
    }

    /** Values of finished steps as a place sees them: nearer ones hide farther ones (D10). */
    public Map<String, Map<String, Object>> seen(@Nullable Place place) {
        if (place == null) {
            return steps;
        }
        Map<String, Map<String, Object>> all = new HashMap<>(steps);
        chain(place).reversed().forEach(p -> all.putAll(inner.getOrDefault(p.scope(), Map.of())));
        return all;
    }

    /** The item that a name means at a place. */
    Optional<Object> item(@Nullable Place place, String name) {
        for (Place p : chain(place)) {
            Visit bracket = open.get(p.bracket());
            if (bracket != null
                    && bracket.waiting() instanceof Waiting.Lines lines
                    && name.equals(lines.item())
                    && p.index() < lines.items().size()) {
                return Optional.of(lines.items().get(p.index()));
            }
        }
        return Optional.empty();
    }

    /** The item of the nearest for each around a visit. */
    public Optional<Object> itemAround(Visit visit) {
        for (Place p : chain(visit.place())) {
            Visit bracket = open.get(p.bracket());
            if (bracket != null
                    && bracket.waiting() instanceof Waiting.Lines lines
                    && p.index() < lines.items().size()) {
                return Optional.of(lines.items().get(p.index()));
            }
        }
        return Optional.empty();
    }

    @JsonIgnore
    public boolean held() {
        return heldSince != null;
    }

    /** Whether something stands before a step and may open it. */
    boolean goesOn() {
        return !ready.isEmpty() && !held();
    }

    // --- copies with one thing changed

    Run atVersion(int other) {
        return changed(other, heldSince);
    }

    Run holding(Instant since) {
        return changed(version, since);
    }

    /** Goes on: what was due while it was held is due later by that long. */
    Run resumed(Instant at) {
        if (heldSince == null) {
            return this;
        }
        long seconds = Math.max(0, Duration.between(heldSince, at).toSeconds());
        TreeMap<VisitId, Visit> later = new TreeMap<>();
        open.forEach((id, visit) -> later.put(id, visit.heldFor(seconds)));
        return changed(version, null).withOpen(later);
    }

    private Run changed(int newVersion, @Nullable Instant since) {
        return new Run(
                id,
                workflow,
                newVersion,
                name,
                owner,
                startedAt,
                trigger,
                depth,
                parent,
                ready,
                visits,
                open,
                inputs,
                vars,
                steps,
                inner,
                guards,
                putBacks,
                puttingBack,
                since,
                lastDone);
    }

    Run withLastDone(@Nullable Undoable last) {
        return new Run(
                id,
                workflow,
                version,
                name,
                owner,
                startedAt,
                trigger,
                depth,
                parent,
                ready,
                visits,
                open,
                inputs,
                vars,
                steps,
                inner,
                guards,
                putBacks,
                puttingBack,
                heldSince,
                last);
    }

    /** Values of finished steps exactly at a place. */
    Map<String, Map<String, Object>> scope(@Nullable Place place) {
        return place == null ? steps : inner.getOrDefault(place.scope(), Map.of());
    }

    Run withReady(List<Token> other) {
        return copy(List.copyOf(other), visits, open, vars, steps, inner, guards, putBacks, puttingBack);
    }

    Run withOpen(TreeMap<VisitId, Visit> other) {
        return copy(ready, visits, other, vars, steps, inner, guards, putBacks, puttingBack);
    }

    Run with(Visit visit) {
        TreeMap<VisitId, Visit> all = new TreeMap<>(open);
        all.put(visit.id(), visit);
        return withOpen(all);
    }

    Run counted() {
        return copy(ready, visits + 1, open, vars, steps, inner, guards, putBacks, puttingBack);
    }

    Run withVars(Map<String, Object> other) {
        return copy(ready, visits, open, Map.copyOf(other), steps, inner, guards, putBacks, puttingBack);
    }

    Run withGuards(List<Guard> other) {
        return copy(ready, visits, open, vars, steps, inner, List.copyOf(other), putBacks, puttingBack);
    }

    Run withPutBacks(List<PutBack> other) {
        return copy(ready, visits, open, vars, steps, inner, guards, List.copyOf(other), puttingBack);
    }

    Run withPuttingBack(List<PuttingBack> other) {
        return copy(ready, visits, open, vars, steps, inner, guards, putBacks, List.copyOf(other));
    }

    Run withInner(TreeMap<String, Map<String, Map<String, Object>>> other) {
        return copy(ready, visits, open, vars, steps, other, guards, putBacks, puttingBack);
    }

    /** Keeps the values of a finished step where it stands. */
    Run withValues(@Nullable Place place, StepId step, Map<String, Object> values) {
        Map<String, Map<String, Object>> kept =
                new HashMap<>(place == null ? steps : inner.getOrDefault(place.scope(), Map.of()));
        kept.put(step.value(), values);
        return withScope(place, kept);
    }

    Run withScope(@Nullable Place place, Map<String, Map<String, Object>> kept) {
        if (place == null) {
            return copy(ready, visits, open, vars, kept, inner, guards, putBacks, puttingBack);
        }
        TreeMap<String, Map<String, Map<String, Object>>> all = new TreeMap<>(inner);
        if (kept.isEmpty()) {
            all.remove(place.scope());
        } else {
            all.put(place.scope(), kept);
        }
        return withInner(all);
    }

    private Run copy(
            List<Token> newReady,
            int newVisits,
            TreeMap<VisitId, Visit> newOpen,
            Map<String, Object> newVars,
            Map<String, Map<String, Object>> newSteps,
            TreeMap<String, Map<String, Map<String, Object>>> newInner,
            List<Guard> newGuards,
            List<PutBack> newPutBacks,
            List<PuttingBack> newPuttingBack) {
        return new Run(
                id,
                workflow,
                version,
                name,
                owner,
                startedAt,
                trigger,
                depth,
                parent,
                newReady,
                newVisits,
                newOpen,
                inputs,
                newVars,
                newSteps,
                newInner,
                newGuards,
                newPutBacks,
                newPuttingBack,
                heldSince,
                lastDone);
    }
}
