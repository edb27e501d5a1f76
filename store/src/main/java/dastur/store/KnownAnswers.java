package dastur.store;

import dastur.core.people.PersonId;
import dastur.core.ticket.ServiceId;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.LocalDate;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Answers that are known before anybody is asked (N49). */
public final class KnownAnswers {
    private static final int MOST = 2_000;
    /** One word alone says nothing: "help" stands everywhere. */
    private static final int FEWEST_WORDS = 2;

    /**
     * A known answer.
     *
     * @param source where it is from, so that it can be checked
     * @param validUntil after this day it is not offered any more; null for no end
     * @param keeper who keeps it true
     * @param helped how often somebody said that it helped
     */
    public record KnownAnswer(
            String id,
            String question,
            String answer,
            @Nullable ServiceId service,
            String source,
            @Nullable LocalDate validUntil,
            PersonId keeper,
            int helped) {}

    /** An answer that fits what somebody typed. @param confidence from 0 to 1 */
    public record Fit(KnownAnswer answer, double confidence) {}

    @Entity(name = "KnownAnswerRow")
    @Table(name = "known_answer")
    static class Row {
        @Id
        String id;

        String question;

        String answer;

        @Nullable String service;

        String source;

        @Column(name = "valid_until")
        @Nullable LocalDate validUntil;

        String keeper;

        int helped;
    }

    private final Database database;

    public KnownAnswers(Database database) {
        this.database = database;
    }

    public List<KnownAnswer> all() {
        return database.read(session -> session
                .createSelectionQuery("from KnownAnswerRow order by question", Row.class)
                .setMaxResults(MOST)
                .getResultList()
                .stream()
                .map(KnownAnswers::known)
                .toList());
    }

    public Optional<KnownAnswer> find(String id) {
        return database.read(
                session -> Optional.ofNullable(session.get(Row.class, id)).map(KnownAnswers::known));
    }

    /** Sets an answer; how often it helped stays. @param by null without a line in the journal */
    public void put(Journal.@Nullable By by, KnownAnswer answer) {
        database.run(session -> {
            Optional<Row> before = Optional.ofNullable(session.get(Row.class, answer.id()));
            Row row = new Row();
            row.id = answer.id();
            row.question = answer.question();
            row.answer = answer.answer();
            row.service = answer.service() == null ? null : answer.service().value();
            row.source = answer.source();
            row.validUntil = answer.validUntil();
            row.keeper = answer.keeper().value();
            row.helped = before.map(b -> b.helped).orElse(answer.helped());
            Optional<KnownAnswer> was = before.map(KnownAnswers::known);
            session.upsert(row);
            if (by != null) {
                Journal.changed(session, by, AsSet.KNOWN_ANSWER, answer.id(), was, known(row), words(known(row)));
            }
        });
    }

    /** What an answer says, without how often it helped, which is counted by itself. */
    static Optional<KnownAnswer> words(StatelessSession session, String id) {
        return Optional.ofNullable(session.get(Row.class, id))
                .map(KnownAnswers::known)
                .map(KnownAnswers::words);
    }

    public void delete(Journal.By by, String id) {
        database.run(session -> {
            session.createMutationQuery("delete KnownAnswerRow where id = ?1")
                    .setParameter(1, id)
                    .executeUpdate();
            Journal.set(session, by, AsSet.KNOWN_ANSWER, id, "deleted", null, AsSet.NOTHING);
        });
    }

    public void helped(String id) {
        database.run(
                session -> session.createMutationQuery("update KnownAnswerRow set helped = helped + 1 where id = ?1")
                        .setParameter(1, id)
                        .executeUpdate());
    }

    /**
     * Those that fit a text, best first. A rare word counts more than one that stands in many answers; the confidence is
     * the weight of the words that are found as a share of all that were typed.
     *
     * @param service what the text is about; an answer for another service does not fit. Null when it is not known
     */
    public List<Fit> fitting(String text, @Nullable ServiceId service, LocalDate today, int most) {
        List<KnownAnswer> valid = all().stream()
                .filter(a -> a.validUntil() == null || !a.validUntil().isBefore(today))
                .filter(a ->
                        service == null || a.service() == null || a.service().equals(service))
                .toList();
        List<String> typed = Words.of(text).stream()
                .filter(w -> w.length() > 2)
                .map(KnownAnswers::stem)
                .distinct()
                .toList();
        if (typed.isEmpty() || valid.isEmpty()) {
            return List.of();
        }
        Map<KnownAnswer, Set<String>> words = new HashMap<>();
        Map<String, Integer> common = new HashMap<>();
        valid.forEach(a -> {
            Set<String> own = new HashSet<>();
            Words.of(a.question() + " " + a.answer()).forEach(w -> own.add(stem(w)));
            words.put(a, own);
            own.forEach(w -> common.merge(w, 1, Integer::sum));
        });
        double all = typed.stream()
                .mapToDouble(w -> weight(common.get(w), valid.size()))
                .sum();
        return valid.stream()
                .map(a -> new Fit(
                        a,
                        typed.stream()
                                        .filter(words.get(a)::contains)
                                        .mapToDouble(w -> weight(common.get(w), valid.size()))
                                        .sum()
                                / all))
                .filter(f ->
                        typed.stream().filter(words.get(f.answer())::contains).count() >= FEWEST_WORDS)
                .sorted(Comparator.comparingDouble(Fit::confidence)
                        .reversed()
                        .thenComparing(f -> -f.answer().helped())
                        .thenComparing(f -> f.answer().id()))
                .limit(most)
                .toList();
    }

    private static double weight(@Nullable Integer in, int of) {
        return in == null ? 1 : Math.log(1 + (double) of / in);
    }

    /** Words of one family meet: "gates" and "gate". */
    private static String stem(String word) {
        return word.length() > 4 && word.endsWith("s") ? word.substring(0, word.length() - 1) : word;
    }

    private static KnownAnswer words(KnownAnswer a) {
        return new KnownAnswer(
                a.id(), a.question(), a.answer(), a.service(), a.source(), a.validUntil(), a.keeper(), 0);
    }

    private static KnownAnswer known(Row r) {
        return new KnownAnswer(
                r.id,
                r.question,
                r.answer,
                r.service == null ? null : new ServiceId(r.service),
                r.source,
                r.validUntil,
                new PersonId(r.keeper),
                r.helped);
    }
}
