package dastur.core.step.approval;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.people.Cover;
import dastur.core.people.PersonId;
import dastur.core.run.Agreed;
import dastur.core.run.Assigned;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.run.Waiting.Asked;
import dastur.core.run.Waiting.Question;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Votes of one round. */
public record Votes(
        int round,
        String name,
        @Nullable String question,
        @Nullable String setsOff,
        List<PersonId> electorate,
        List<PersonId> excluded,
        String rule,
        int needed,
        List<String> shown,
        Map<String, Object> values,
        String digest,
        boolean commentOnDecline,
        @Nullable Instant due,
        @Nullable List<List<PersonId>> sets,
        Map<PersonId, Boolean> cast,
        Map<PersonId, PersonId> through,
        VoteTerms terms,
        Map<PersonId, String> conditions,
        @Nullable AskedBack askedBack,
        @Nullable List<Agreed> allows)
        implements Waiting.InRoom {
    @Override
    public Optional<Asked> asks() {
        List<PersonId> open = turn().stream().filter(p -> !cast.containsKey(p)).toList();
        return Optional.of(
                new Asked("approval", name, new Assigned(List.of(), open), null, null, due, Cover.Scope.DECISIONS));
    }

    @Override
    public Optional<Question> openQuestion() {
        return Optional.ofNullable(askedBack).map(q -> new Question(q.by(), q.at(), q.text()));
    }

    @Override
    public List<PersonId> notAnew() {
        return Stream.concat(electorate.stream(), excluded.stream()).toList();
    }

    @Override
    public boolean coveredBy(Cover cover) {
        return cover.scope().meets(Cover.Scope.DECISIONS)
                && !electorate.contains(cover.cover())
                && !excluded.contains(cover.cover());
    }

    /** A question that was open during a hold stops the clock for the rest of its time: the hold counts its own. */
    @Override
    public Waiting heldFor(long seconds) {
        Votes later = due == null ? this : dueAt(due.plusSeconds(seconds));
        return askedBack == null
                ? later
                : later.askingBack(
                        new AskedBack(askedBack.by(), askedBack.at().plusSeconds(seconds), askedBack.text()));
    }

    @Override
    public boolean alive(Visit visit) {
        return !electorate.isEmpty();
    }

    @Override
    public Waiting later(long seconds) {
        return due == null ? this : dueAt(due.plusSeconds(seconds));
    }

    @Override
    public boolean untouched() {
        return cast.isEmpty() && round == 1 && askedBack == null;
    }

    @Override
    public @Nullable String words() {
        return question;
    }

    /** The digest of nothing: of what was shown before it changed. */
    private static final String VOID = "";

    /** An open question of somebody who is asked. @param text null when it was redacted */
    public record AskedBack(
            PersonId by, Instant at, @Nullable String text) {}

    public Votes {
        through = through == null ? Map.of() : through;
        terms = terms == null ? VoteTerms.PLAIN : terms;
        conditions = conditions == null ? Map.of() : conditions;
    }

    /** Votes cast so far, and who cast those of others. */
    Votes with(Map<PersonId, Boolean> votes, Map<PersonId, PersonId> by, Map<PersonId, String> named) {
        return changed(electorate, sets, due, votes, by, named, askedBack);
    }

    /** Somebody's vote. @param natural who really cast it */
    Votes cast(PersonId person, boolean yes, PersonId natural, @Nullable String condition) {
        return with(
                plus(cast, person, yes),
                plus(through, person, natural),
                condition == null ? conditions : plus(conditions, person, condition));
    }

    Votes withdrawn(PersonId person) {
        return with(without(cast, person), without(through, person), without(conditions, person));
    }

    private static <T> Map<PersonId, T> plus(Map<PersonId, T> map, PersonId person, T value) {
        Map<PersonId, T> all = new TreeMap<>(map);
        all.put(person, value);
        return all;
    }

    private static <T> Map<PersonId, T> without(Map<PersonId, T> map, PersonId person) {
        Map<PersonId, T> left = new HashMap<>(map);
        left.remove(person);
        return Map.copyOf(left);
    }

    Votes askingBack(@Nullable AskedBack question) {
        return changed(electorate, sets, due, cast, through, conditions, question);
    }

    /** Those who may vote now: all, or the ones whose turn it is. */
    public List<PersonId> turn() {
        if (!terms.inOrder() || sets == null) {
            return electorate;
        }
        for (int i = 0; i < sets.size(); i++) {
            if (!Matching.covers(sets.subList(0, i + 1), approving())) {
                return sets.get(i);
            }
        }
        // Everybody asked in order has said yes: what is still open are those whose no would end it.
        return terms.veto().stream().filter(p -> !cast.containsKey(p)).toList();
    }

    /** Those who said yes, or still may. */
    List<PersonId> hopeful() {
        return electorate.stream().filter(p -> cast.getOrDefault(p, true)).toList();
    }

    /** Whether enough of these people, saying yes, make it approved. */
    boolean enough(List<PersonId> saying) {
        return sets == null ? saying.size() >= needed : Matching.covers(sets, saying);
    }

    @JsonIgnore
    List<PersonId> approving() {
        return cast.entrySet().stream()
                .filter(Map.Entry::getValue)
                .map(Map.Entry::getKey)
                .toList();
    }

    @JsonIgnore
    int yes() {
        return (int) cast.values().stream().filter(v -> v).count();
    }

    @JsonIgnore
    int no() {
        return cast.size() - yes();
    }

    Votes dueAt(Instant other) {
        return changed(electorate, sets, other, cast, through, conditions, askedBack);
    }

    /**
     * Others may vote as well.
     *
     * @param nowNeeded how many must say yes then; null where that stays
     */
    @Override
    public Votes joinedBy(List<PersonId> more, @Nullable Integer nowNeeded) {
        List<List<PersonId>> wider = sets == null
                ? null
                : sets.stream().map(set -> joined(set, more)).toList();
        Votes joined = changed(joined(electorate, more), wider, due, cast, through, conditions, askedBack);
        return nowNeeded == null ? joined : joined.needing(nowNeeded);
    }

    private Votes needing(int count) {
        return new Votes(
                round,
                name,
                question,
                setsOff,
                electorate,
                excluded,
                rule,
                count,
                shown,
                values,
                digest,
                commentOnDecline,
                due,
                sets,
                cast,
                through,
                terms,
                conditions,
                askedBack,
                allows);
    }

    /** What was shown has changed: no vote on it counts, and none can be cast until it is asked again. */
    Votes voided() {
        return new Votes(
                round,
                name,
                question,
                setsOff,
                electorate,
                excluded,
                rule,
                needed,
                shown,
                values,
                VOID,
                commentOnDecline,
                due,
                sets,
                Map.of(),
                Map.of(),
                terms,
                Map.of(),
                askedBack,
                allows);
    }

    @JsonIgnore
    boolean isVoid() {
        return digest.equals(VOID);
    }

    private static List<PersonId> joined(List<PersonId> some, List<PersonId> more) {
        return Stream.concat(some.stream(), more.stream()).distinct().sorted().toList();
    }

    private Votes changed(
            List<PersonId> people,
            @Nullable List<List<PersonId>> eachOf,
            @Nullable Instant newDue,
            Map<PersonId, Boolean> votes,
            Map<PersonId, PersonId> by,
            Map<PersonId, String> named,
            @Nullable AskedBack question) {
        return new Votes(
                round,
                name,
                this.question,
                setsOff,
                people,
                excluded,
                rule,
                needed,
                shown,
                values,
                digest,
                commentOnDecline,
                newDue,
                eachOf,
                votes,
                by,
                terms,
                named,
                question,
                allows);
    }
}
