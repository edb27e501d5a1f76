package dastur.server.api;

import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.store.Records;
import dastur.store.Workflows;
import java.util.List;
import java.util.Optional;

/** A ticket's record as people read it. */
final class RecordViews {
    /** Entries in one answer. */
    private static final int ENTRIES = 500;

    private final Records records;
    private final Workflows workflows;

    RecordViews(Records records, Workflows workflows) {
        this.records = records;
        this.workflows = workflows;
    }

    /** The entries after one, at most {@value #ENTRIES}; the seal is checked over all of them. */
    Views.RecordView of(Case c, long after) {
        Records.Checked checked = records.checked(c.id());
        List<Entry> entries = checked.entries();
        Optional<Seal.Break> broken = checked.problem();
        List<Entry> part =
                entries.stream().filter(e -> e.seq() > after).limit(ENTRIES).toList();
        long last = entries.isEmpty() ? 0 : entries.getLast().seq();
        DesignThen design = new DesignThen(entries, workflows::version);
        ValueLabels labels = new ValueLabels(workflows::action);
        return new Views.RecordView(
                part.stream().map(e -> entry(e, design, labels)).toList(),
                !part.isEmpty() && part.getLast().seq() < last,
                entries.size(),
                broken.isEmpty(),
                broken.map(Seal.Break::seq).orElse(null),
                broken.map(Seal.Break::message).orElse(null),
                checked.signed());
    }

    static Views.EntryView entry(Entry e, DesignThen design, ValueLabels labels) {
        var line = readable(e.sealed());
        var content = e.content() == null ? null : readable(e.content());
        return new Views.EntryView(
                e.seq(),
                e.at(),
                line.path("actor"),
                e.kind(),
                line.path("run").textValue(),
                line.path("step").textValue(),
                design.stepName(e.seq(), line),
                line.path("visit").textValue(),
                line.path("body"),
                content,
                labels.of(e.seq(), line, content, design),
                e.content() == null && line.has("contentHash"),
                e.hash());
    }

    static com.fasterxml.jackson.databind.JsonNode readable(String text) {
        try {
            return dastur.core.json.Json.parse(text);
        } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
            return dastur.core.json.Json.mapper().createObjectNode();
        }
    }
}
