package dastur.store;

import dastur.core.ticket.TicketKind;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.hibernate.query.SelectionQuery;
import org.jspecify.annotations.Nullable;

/** What a filter of tickets says to the database. Each page begins after the last row of the one before, whatever the order. */
final class TicketSearch {
    private static final int MOST_WORDS = 8;
    /** A word that stands in more places does not narrow a search down. */
    private static final int COMMON = 2_000;

    private static final String KINDS =
            Stream.of(TicketKind.values()).map(k -> String.valueOf(k.letter())).collect(Collectors.joining());

    private static final int MOST_VALUES = 12;
    /** The beginning of a ticket's number; what begins with another letter is called so by somebody else. */
    private static final Pattern NUMBER = Pattern.compile("[" + KINDS + KINDS.toLowerCase(Locale.ROOT) + "]-?\\d{0,9}");

    /** A number as people say it, without what kind it is of. */
    private static final Pattern DIGITS = Pattern.compile("\\d{1,9}");

    private static final List<String> FACETS = List.of("kind", "priority", "state", "service", "team");

    private final StatelessSession session;
    private final TicketFilter filter;
    private final List<String> where = new ArrayList<>();
    private final List<Object> values = new ArrayList<>();

    private TicketSearch(StatelessSession session, TicketFilter filter) {
        this.session = session;
        this.filter = filter;
        equal("t.ended", filter.open() == null ? null : !filter.open());
        equal("t.kind", filter.kind());
        equal("t.isTest", filter.tests());
        if (filter.kind() == null
                && !filter.tests()
                && (filter.text() == null || filter.text().isBlank())) {
            // Nobody waits for them: they are found by their number and their words, and listed when one asks for them
            // (I6).
            where.add("t.kind <> " + given(TicketKind.ROUTINE.word()));
        }
        if (isUnasked(filter)) {
            // What is a consequence of another waits under that one (I22).
            where.add("t.folded is null");
        }
        equal("t.priority", filter.priority());
        equal("t.state", filter.state());
        equal("t.service", filter.service());
        equal("t.team", filter.group());
        equal("t.assignee", filter.assignee());
        equal("t.ci", filter.ci());
        equal("t.requester", filter.requester());
        if (filter.raisedFrom() != null) {
            where.add("t.createdAt >= " + given(filter.raisedFrom()));
        }
        if (filter.raisedBefore() != null) {
            where.add("t.createdAt < " + given(filter.raisedBefore()));
        }
        text(filter.text() == null ? "" : filter.text().strip());
    }

    /** Whether the list is no search for something that may stand under another: for words, for a CI, for what has ended. */
    private static boolean isUnasked(TicketFilter filter) {
        boolean searched = filter.text() != null && !filter.text().isBlank();
        return !searched && filter.ci() == null && Boolean.TRUE.equals(filter.open());
    }

    /** One row more than a page holds, when there are more. */
    static List<Rows.TicketRow> page(StatelessSession session, TicketFilter filter, int size) {
        TicketSearch search = new TicketSearch(session, filter);
        search.afterLast();
        return search.asked(
                        "from TicketRow t" + search.condition() + " order by " + search.order(), Rows.TicketRow.class)
                .setMaxResults(size + 1)
                .getResultList();
    }

    static List<Tickets.Facet> facets(StatelessSession session, TicketFilter filter) {
        TicketSearch search = new TicketSearch(session, filter);
        if (search.where.stream().anyMatch(w -> w.startsWith("exists"))
                && search.where.stream().noneMatch(w -> w.startsWith("t.id"))) {
            // Words that stand everywhere: counting all those tickets would take longer than anybody waits.
            return List.of();
        }
        return FACETS.stream().flatMap(search::facet).toList();
    }

    private Stream<Tickets.Facet> facet(String field) {
        return asked(
                        "select t." + field + ", count(*) from TicketRow t" + condition() + " group by t." + field
                                + " order by count(*) desc, t." + field,
                        Object[].class)
                .setMaxResults(MOST_VALUES)
                .getResultList()
                .stream()
                .filter(r -> r[0] != null)
                .map(r -> new Tickets.Facet(field.equals("team") ? "group" : field, (String) r[0], (Long) r[1]));
    }

    private void equal(String field, @Nullable Object value) {
        if (value != null) {
            where.add(field + " = " + given(value));
        }
    }

    /** The place of a value in the query. */
    private String given(Object value) {
        values.add(value);
        return "?" + values.size();
    }

    private String condition() {
        return where.isEmpty() ? "" : " where " + String.join(" and ", where);
    }

    private <T> SelectionQuery<T> asked(String hql, Class<T> of) {
        SelectionQuery<T> query = session.createSelectionQuery(hql, of);
        for (int i = 0; i < values.size(); i++) {
            query.setParameter(i + 1, values.get(i));
        }
        return query;
    }

    /**
     * Begins with the column that is equal in all of them when only open or only ended ones are asked for: so the database
     * walks its index in order and stops at a page.
     */
    private String order() {
        String keys = filter.orderOrUsual().keys.stream()
                .map(k -> k.said() + (k.descending() ? " desc" : ""))
                .collect(Collectors.joining(", "));
        return Boolean.TRUE.equals(filter.open()) ? "t.ended, " + keys : keys;
    }

    /** Only what stands after the last row of the page before: greater in one key and the same in those before it. */
    private void afterLast() {
        List<TicketFilter.Key> keys = filter.orderOrUsual().keys;
        if (filter.after() == null) {
            return;
        }
        List<Object[]> last = session.createSelectionQuery(
                        keys.stream().map(TicketFilter.Key::said).collect(Collectors.joining(", ", "select ", ""))
                                + " from TicketRow t where t.id = ?1",
                        Object[].class)
                .setParameter(1, filter.after().value())
                .getResultList();
        if (last.isEmpty()) {
            return;
        }
        String beyond = "";
        for (int i = keys.size() - 1; i >= 0; i--) {
            TicketFilter.Key key = keys.get(i);
            String at = given(last.getFirst()[i]);
            String here = key.said() + (key.descending() ? " < " : " > ") + at;
            beyond = beyond.isEmpty() ? here : "(" + here + " or " + key.said() + " = " + at + " and " + beyond + ")";
        }
        where.add(beyond);
    }

    /** A number, or words of the record each of which must stand there; requesters search their titles only. */
    private void text(String text) {
        if (text.isEmpty()) {
            return;
        }
        if (NUMBER.matcher(text).matches()) {
            String number = text.toUpperCase(Locale.ROOT);
            where.add("t.id like "
                    + given(
                            number.length() > 1 && number.charAt(1) != '-'
                                    ? number.charAt(0) + "-" + number.substring(1) + "%"
                                    : number + "%"));
        } else if (DIGITS.matcher(text).matches() && !filter.ownOnly()) {
            where.add("(" + numbered(text) + " or exists (select 1 from TicketWordRow w where w.key.ticket = t.id"
                    + " and w.key.word = " + given(text) + "))");
        } else if (DIGITS.matcher(text).matches()) {
            where.add("(" + numbered(text) + " or t.title like " + given("%" + text + "%") + ")");
        } else if (filter.ownOnly()) {
            where.add("lower(t.title) like "
                    + given("%" + text.toLowerCase(Locale.ROOT).replaceAll("([!%_])", "!$1") + "%") + " escape '!'");
        } else {
            words(Words.of(text).stream().limit(MOST_WORDS).toList());
        }
    }

    private String numbered(String digits) {
        return Stream.of(TicketKind.values())
                .map(k -> given(k.letter() + "-" + digits))
                .collect(Collectors.joining(", ", "t.id in (", ")"));
    }

    /**
     * A rare word says which tickets it can be, the others are looked up for each of those. Where all words stand
     * everywhere, the newest tickets are gone through instead: the first page is full soon.
     */
    private void words(List<String> words) {
        if (words.isEmpty()) {
            where.add("1 = 0");
            return;
        }
        Map<String, Integer> counts = new LinkedHashMap<>();
        words.forEach(w -> counts.put(w, commonness(w)));
        String rarest = Collections.min(words, Comparator.comparing(counts::get));
        boolean rare = counts.get(rarest) < COMMON;
        for (String word : words) {
            String at = given(word + "%");
            where.add(
                    rare && word.equals(rarest)
                            ? "t.id in (select w.key.ticket from TicketWordRow w where w.key.word like " + at + ")"
                            : "exists (select 1 from TicketWordRow w where w.key.ticket = t.id and w.key.word like "
                                    + at + ")");
        }
    }

    /** In how many places a word stands, counted no further than to {@value #COMMON}. */
    private int commonness(String word) {
        return session.createSelectionQuery("select 1 from TicketWordRow w where w.key.word like ?1", Integer.class)
                .setParameter(1, word + "%")
                .setMaxResults(COMMON)
                .getResultList()
                .size();
    }
}
