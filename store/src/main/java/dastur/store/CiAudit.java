package dastur.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.ticket.ConfigurationItem;
import dastur.store.Audit.Finding;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Whether CIs are what the journal and the records of tickets made them (K17): with what tickets changed since taken back, each
 * is what its last line set; and what tickets changed is so.
 */
final class CiAudit {
    private static final Set<String> OWN =
            Set.of("name", "kind", "service", "life", "site", "address", "owner", ConfigurationItem.WISH);

    /** A value that a ticket set. @param at its place in the log */
    private record Change(
            String ticket,
            long seq,
            String name,
            long at,
            @Nullable String content) {
        /** What it was before, and after. Empty where the content was redacted, or the entry knows nothing of it. */
        Optional<JsonNode> inEntry() {
            try {
                return content == null
                        ? Optional.empty()
                        : Optional.of(Json.parse(content).path("ciChanges").path(name))
                                .filter(JsonNode::isObject);
            } catch (JsonProcessingException e) {
                return Optional.empty();
            }
        }
    }

    private record Line(String hash, long seq, long at) {}

    private final Database database;

    CiAudit(Database database) {
        this.database = database;
    }

    List<Finding> run() {
        return Audit.standing(this::once);
    }

    /** By what stands in the log: whatever was changed a moment ago is entered before, or it would look as if it came past all of it. */
    private List<Finding> once() {
        database.sequencer().catchUp();
        return database.read(session -> session.doReturningWork(c -> {
            Map<String, Line> lines = lines(c);
            Map<String, List<Change>> changes = changes(c);
            List<Finding> findings = new ArrayList<>();
            Set<String> all = new HashSet<>(lines.keySet());
            all.addAll(changes.keySet());
            for (String ci : new java.util.TreeSet<>(all)) {
                check(session, ci, lines.get(ci), changes.getOrDefault(ci, List.of()), findings);
            }
            return findings;
        }));
    }

    /** The last line of the journal about each, and where the log holds it. */
    private static Map<String, Line> lines(Connection c) throws SQLException {
        Map<String, Line> lines = new HashMap<>();
        Jdbc.query(
                c,
                "select j.subject_id, j.set_hash, j.seq, l.number from journal j"
                        + " join log_leaf l on l.ticket = 'journal' and l.seq = j.seq"
                        + " where j.subject = 'CI' and j.set_hash is not null order by j.seq",
                r -> lines.put(r.getString(1), new Line(r.getString(2), r.getLong(3), r.getLong(4))));
        return lines;
    }

    /** By CI, in the order of the log. What is not in the log yet is left out. */
    private static Map<String, List<Change>> changes(Connection c) throws SQLException {
        Map<String, List<Change>> changes = new HashMap<>();
        Jdbc.query(
                c,
                "select x.ci, x.ticket, x.seq, x.name, e.content,"
                        + " (select min(l.number) from log_leaf l where l.ticket = x.ticket and l.seq >= x.seq) leaf"
                        + " from ci_change x left join entry e on e.ticket = x.ticket and e.seq = x.seq"
                        + " order by leaf, x.seq",
                r -> r.getObject(6) == null
                        ? null
                        : changes.computeIfAbsent(r.getString(1), k -> new ArrayList<>())
                                .add(new Change(
                                        r.getString(2), r.getLong(3), r.getString(4), r.getLong(6), r.getString(5))));
        return changes;
    }

    private static void check(
            StatelessSession session, String ci, @Nullable Line line, List<Change> changes, List<Finding> findings) {
        Optional<SetUp.CiAndRelations> now = SetUp.ciNow(session, ci);
        if (now.isEmpty()) {
            findings.add(new Finding("CI " + ci, 0, "it is not there: it was deleted past the application"));
            return;
        }
        List<Change> since =
                changes.stream().filter(x -> line == null || x.at() > line.at()).toList();
        ObjectNode tree = (ObjectNode) Json.tree(now.get());
        Map<String, Change> last = new TreeMap<>();
        since.forEach(x -> last.put(x.name(), x));
        for (Change x : last.values()) {
            Optional<JsonNode> said = x.inEntry();
            if (said.isPresent() && !same(value(tree, x.name()), said.get().path("after"))) {
                findings.add(new Finding(
                        "CI " + ci,
                        0,
                        "its '" + x.name() + "' is not what entry " + x.seq() + " of " + x.ticket()
                                + " set: it was changed past the application"));
                return;
            }
        }
        if (line == null || since.stream().anyMatch(x -> x.inEntry().isEmpty())) {
            since.stream()
                    .filter(x -> x.content() != null && x.inEntry().isEmpty())
                    .findFirst()
                    .ifPresent(x -> findings.add(new Finding(
                            "CI " + ci,
                            0,
                            "its history names entry " + x.seq() + " of " + x.ticket()
                                    + ", which says nothing of it: it was put in past the application")));
            return;
        }
        for (Change x : since.reversed()) {
            put(tree, x.name(), x.inEntry().orElseThrow().path("before"));
        }
        if (!Journal.hashOf(tree).equals(line.hash())) {
            findings.add(new Finding(
                    "CI " + ci,
                    0,
                    "it is not what line " + line.seq()
                            + " of the journal and the tickets since made it: it was changed past the application"));
        }
    }

    private static ObjectNode holder(ObjectNode tree, String name) {
        ObjectNode item = (ObjectNode) tree.path("ci");
        return OWN.contains(name) ? item : (ObjectNode) item.path("attributes");
    }

    private static String property(String name) {
        return name.equals(ConfigurationItem.WISH) ? "wish" : name;
    }

    private static JsonNode value(ObjectNode tree, String name) {
        return holder(tree, name).path(property(name));
    }

    private static void put(ObjectNode tree, String name, JsonNode value) {
        if (value.isMissingNode() || value.isNull()) {
            holder(tree, name).remove(property(name));
        } else {
            holder(tree, name).set(property(name), value);
        }
    }

    /** What is nothing may be left out, or written as null. */
    private static boolean same(JsonNode one, JsonNode other) {
        boolean none = one.isMissingNode() || one.isNull();
        return none
                ? other.isMissingNode() || other.isNull()
                : one.asText().equals(other.asText()) && one.equals(other);
    }
}
