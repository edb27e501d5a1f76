package dastur.core.signal;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.json.Texts;
import dastur.core.signal.Mapping.To;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.ServiceId;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Reads one payload by a source's mapping. Pure: the same payload, mapping and CIs give the same reading (I3). */
public final class Mapper {
    /** How far a sender's clock may be off before the time of receipt counts. */
    public static final Duration CLOCKS_MAY_DIFFER = Duration.ofMinutes(5);

    private static final int MAX_MATTER = 200;
    private static final int MAX_TITLE = 200;
    private static final int MAX_TEXT = 4_000;
    private static final int MAX_VALUE = 500;

    /** Finds CIs by what senders call them. */
    public interface Cis {
        /** The CI of which an attribute has a value; empty when none has, or more than one. @param by {@code id}, {@code name}, {@code address} or an attribute */
        Optional<ConfigurationItem> find(String by, String value);

        /** Values of a service for texts; empty when there is none. */
        Map<String, Object> service(ServiceId id);
    }

    private final Source source;
    private final Cis cis;
    private final Expressions expressions;

    private final Map<To, String> words = new EnumMap<>(To.class);
    private final Map<String, Object> values = new LinkedHashMap<>();
    private @Nullable ConfigurationItem ci;
    private @Nullable String problem;

    private Mapper(Source source, Cis cis, Expressions expressions) {
        this.source = source;
        this.cis = cis;
        this.expressions = expressions;
    }

    /** @param expressions over what signals of this source may say: {@code Vocabulary.ofSignal} */
    public static Reading read(Source source, String id, Instant cameAt, Raw raw, Cis cis, Expressions expressions) {
        return new Mapper(Silence.reading(source, raw), cis, expressions).read(id, cameAt, raw);
    }

    private Reading read(String id, Instant cameAt, Raw raw) {
        List<Mapping.Row> rows = source.mapping().rows();
        Reading.Cell[] cells = new Reading.Cell[rows.size()];
        for (int i = 0; i < cells.length; i++) {
            if (!(rows.get(i).from() instanceof Origin.Text)) {
                cells[i] = taken(rows.get(i), raw);
            }
        }
        // Texts of our own may name what the other rows gave.
        Signal soFar = signal(id, cameAt);
        for (int i = 0; i < cells.length; i++) {
            if (rows.get(i).from() instanceof Origin.Text text) {
                cells[i] = written(rows.get(i), text, soFar, cameAt);
            }
        }
        return new Reading(List.of(cells), problem == null ? signal(id, cameAt) : null, problem);
    }

    // --- one row

    private Reading.Cell taken(Mapping.Row row, Raw raw) {
        String came =
                switch (row.from()) {
                    case Origin.At at -> text(raw.body().at(at.pointer()));
                    case Origin.Header header -> raw.headers().get(header.name().toLowerCase(Locale.ROOT));
                    case Origin.Text t -> null;
                };
        String clean = came == null ? null : Texts.clean(came);
        return Texts.blank(clean) ? cell(row, null, null, null) : meant(row, clean);
    }

    private Reading.Cell written(Mapping.Row row, Origin.Text text, Signal soFar, Instant now) {
        Map<String, Map<String, Object>> roots = new LinkedHashMap<>();
        roots.put("signal", soFar.words());
        if (ci != null) {
            roots.put("ci", ci.values());
        }
        if (soFar.service() != null) {
            roots.put("service", cis.service(soFar.service()));
        }
        String rendered = TextTemplate.parse(text.text())
                .render(expressions, Scope.of(roots, now), TextTemplate.Target.PLAIN)
                .text()
                .strip();
        return rendered.isEmpty() ? cell(row, null, null, null) : meant(row, rendered);
    }

    /** What stands at a place, as text; lists and objects as JSON. */
    private static @Nullable String text(JsonNode node) {
        if (node.isMissingNode() || node.isNull()) {
            return null;
        }
        return node.isValueNode() ? node.asText() : node.toString();
    }

    private Reading.Cell meant(Mapping.Row row, String came) {
        String word = row.part() == null ? came : Fitting.part(row.part(), came);
        if (word == null && row.otherwise() == null) {
            return unknown(row, came, "Nothing in it fits the expression.");
        }
        if (word == null) {
            word = row.otherwise();
        } else if (row.table() != null) {
            String fits = word;
            word = row.table().getOrDefault(fits, row.otherwise());
            if (word == null) {
                return unknown(
                        row,
                        came,
                        "'" + Texts.clip(fits, 60) + "' is not in the table of the "
                                + (row.name() == null ? row.to().word() : row.name()) + ".");
            }
        }
        return switch (row.to()) {
            case SORT ->
                Sort.of(word).isPresent()
                        ? said(row, came, word, MAX_VALUE)
                        : unknown(
                                row, came, "The sort is fault, recovered or news, not '" + Texts.clip(word, 60) + "'.");
            case SEVERITY ->
                Severity.of(word).isPresent()
                        ? said(row, came, word, MAX_VALUE)
                        : unknown(
                                row,
                                came,
                                "'" + Texts.clip(word, 60)
                                        + "' is no severity: critical, major, minor, warning, indeterminate or cleared.");
            case WHAT, KEY -> said(row, came, word, MAX_MATTER);
            case MATTER -> said(row, came, tidy(word), MAX_MATTER);
            case TITLE -> said(row, came, word.replaceAll("\\s+", " "), MAX_TITLE);
            case TEXT -> said(row, came, word, MAX_TEXT);
            case LINK -> link(row, came, word);
            case AT -> time(row, came, word);
            case CI -> ci(row, came, word);
            case SERVICE -> service(row, came, word);
            case VALUE -> own(row, came, word);
        };
    }

    private Reading.Cell said(Mapping.Row row, String came, String word, int most) {
        String kept = Texts.clip(word, most);
        words.put(row.to(), kept);
        return cell(row, came, kept, null);
    }

    /** What decides cannot be guessed: the signal is not understood. An own value is only absent. */
    private Reading.Cell unknown(Mapping.Row row, String came, String why) {
        if (row.to() == To.SORT || row.to() == To.SEVERITY) {
            problem = problem == null ? why : problem;
        }
        return cell(row, came, null, why);
    }

    private Reading.Cell link(Mapping.Row row, String came, String word) {
        return Texts.isLink(word)
                ? said(row, came, word, MAX_VALUE)
                : cell(row, came, null, "Only http and https links are kept.");
    }

    private Reading.Cell time(Mapping.Row row, String came, String word) {
        try {
            return said(row, came, moment(word).toString(), MAX_VALUE);
        } catch (DateTimeParseException e) {
            return cell(row, came, null, "This is no time (RFC 3339), so the time of receipt counts.");
        }
    }

    private Reading.Cell ci(Mapping.Row row, String came, String word) {
        String by = row.by() == null ? "id" : row.by();
        Optional<ConfigurationItem> found = cis.find(by, word);
        words.put(To.CI, Texts.clip(word, MAX_MATTER));
        if (found.isEmpty()) {
            return cell(row, came, null, "No one CI has the " + by + " '" + Texts.clip(word, 60) + "'.");
        }
        ci = found.get();
        return cell(row, came, ci.name(), null);
    }

    private Reading.Cell service(Mapping.Row row, String came, String word) {
        boolean there = Texts.isId(word) && !cis.service(new ServiceId(word)).isEmpty();
        return there
                ? said(row, came, word, MAX_VALUE)
                : cell(row, came, null, "There is no service '" + Texts.clip(word, 60) + "'.");
    }

    private Reading.Cell own(Mapping.Row row, String came, String word) {
        FieldType type = row.type() == null ? FieldType.TEXT : row.type();
        Optional<Object> value = type.read(word).map(v -> v instanceof String text ? Texts.clip(text, MAX_VALUE) : v);
        if (value.isEmpty()) {
            return cell(row, came, null, "This is not " + type.word() + ", so it counts as absent.");
        }
        values.put(String.valueOf(row.name()), value.get());
        return cell(row, came, String.valueOf(value.get()), null);
    }

    /** Milliseconds are what a record keeps. */
    private static Instant moment(String word) {
        return OffsetDateTime.parse(word).toInstant().truncatedTo(ChronoUnit.MILLIS);
    }

    private static Reading.Cell cell(
            Mapping.Row row, @Nullable String came, @Nullable String means, @Nullable String note) {
        return new Reading.Cell(row.to(), row.name(), came == null ? null : Texts.clip(came, MAX_VALUE), means, note);
    }

    private static String tidy(String matter) {
        return matter.replaceAll("\\s+", " ").strip().toLowerCase(Locale.ROOT);
    }

    // --- the whole

    private Signal signal(String id, Instant cameAt) {
        Severity severity = Optional.ofNullable(words.get(To.SEVERITY))
                .flatMap(Severity::of)
                .orElse(null);
        String matter = matter();
        Sort sort = matter == null
                ? Sort.NEWS
                : Optional.ofNullable(words.get(To.SORT))
                        .flatMap(Sort::of)
                        .orElse(severity == Severity.CLEARED ? Sort.RECOVERED : Sort.FAULT);
        CiId ciId = ci == null ? null : ci.id();
        ServiceId service =
                words.containsKey(To.SERVICE) ? new ServiceId(words.get(To.SERVICE)) : ci == null ? null : ci.service();
        String what = words.get(To.WHAT);
        return new Signal(
                id,
                source.key(),
                cameAt,
                happened(cameAt),
                sort,
                sort == Sort.FAULT && severity == null ? Severity.INDETERMINATE : severity,
                what,
                matter,
                words.get(To.KEY),
                ciId,
                service,
                words.getOrDefault(To.TITLE, what == null ? "Signal of " + source.name() : what),
                words.get(To.TEXT),
                words.get(To.LINK),
                new LinkedHashMap<>(values));
    }

    /** The CI, or the sender's words for it, and what is the matter with it; null where neither is said. */
    private @Nullable String matter() {
        if (words.containsKey(To.MATTER)) {
            return words.get(To.MATTER);
        }
        String of = ci == null ? words.get(To.CI) : ci.id().value();
        String what = words.get(To.WHAT);
        if (of == null && what == null) {
            return null;
        }
        List<String> parts = new ArrayList<>();
        if (of != null) {
            parts.add(of);
        }
        if (what != null) {
            parts.add(what);
        }
        return Texts.clip(tidy(String.join("/", parts)), MAX_MATTER);
    }

    private Instant happened(Instant cameAt) {
        String said = words.get(To.AT);
        Instant at = said == null ? cameAt : Instant.parse(said);
        return Duration.between(at, cameAt).abs().compareTo(CLOCKS_MAY_DIFFER) > 0 ? cameAt : at;
    }
}
