package dastur.core.signal;

import dastur.core.json.Json;
import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * That nothing has come from a source for longer than its keeper puts up with: a fault of a matter of its own, which is over when
 * something comes again (I2). What is said of it is kept and routed like any signal, so that triggers, joining and recovery need not
 * know. Whether it was said follows from how the matter stands.
 */
public final class Silence {
    /** What its words are kept with. No sender's headers come to this. */
    public static final String HEADERS = "{\"dastur\":\"silence\"}";

    private static final String MARK = "dastur";
    private static final Duration SHORTEST = Duration.ofMinutes(5);
    /** What came is kept for 30 days: of longer silences nobody could say when they began. */
    private static final Duration LONGEST = Duration.ofDays(14);

    private static final int ENOUGH_TO_KNOW = 5;

    /** By which its words are read, whatever the source's own mapping is. */
    private static final Mapping WORDS = new Mapping(List.of(
            Row.at(To.SORT, "/sort"),
            Row.at(To.SEVERITY, "/severity"),
            Row.at(To.MATTER, "/matter"),
            Row.at(To.WHAT, "/what"),
            Row.at(To.TITLE, "/title"),
            Row.at(To.TEXT, "/text")));

    /** What is to be kept. @param delivery what it is known again by, if it is said twice @param body JSON */
    public record Said(String delivery, String body) {}

    private Silence() {}

    /** @throws IllegalArgumentException when nobody could wait so long, or so shortly */
    static void check(@Nullable Integer minutes) {
        if (minutes != null
                && (Duration.ofMinutes(minutes).compareTo(SHORTEST) < 0
                        || Duration.ofMinutes(minutes).compareTo(LONGEST) > 0)) {
            throw new IllegalArgumentException("Silence is told after 5 minutes to 14 days.");
        }
    }

    /** What its matter is called. */
    public static String matter(SourceKey source) {
        // As matters are written.
        return "silence of " + source.value().toLowerCase(Locale.ROOT);
    }

    /** The source as it is to be read: what is said of its silence by the words for that, all else by its own mapping. */
    static Source reading(Source source, Raw raw) {
        return raw.headers().containsKey(MARK) ? source.with(WORDS) : source;
    }

    /**
     * What is to be said now.
     *
     * @param last when something last came; null for nothing that is kept
     * @param listening since when there has been somebody to hear: while the application is down, nothing can come
     * @param matter how the matter of its silence stands; null when there never was one
     */
    public static Optional<Said> said(
            Source source, @Nullable Instant last, Instant listening, @Nullable Matter matter, Instant now) {
        Instant told = matter != null && matter.standing().inFault().contains(source.key())
                ? matter.standing().lastFault()
                : null;
        Integer minutes = source.open() ? source.silentAfterMinutes() : null;
        if (told != null) {
            if (minutes == null) {
                return Optional.of(over(source, told, "Nobody asks any more to be told when nothing comes."));
            }
            return last != null && last.isAfter(told)
                    ? Optional.of(over(source, told, "Something came at " + at(last) + "."))
                    : Optional.empty();
        }
        if (minutes == null) {
            return Optional.empty();
        }
        Instant since = last == null || last.isBefore(listening) ? listening : last;
        return since.plus(Duration.ofMinutes(minutes)).isAfter(now)
                ? Optional.empty()
                : Optional.of(begun(source, minutes, last, since));
    }

    private static Said begun(Source source, int minutes, @Nullable Instant last, Instant since) {
        String text = "The last came at " + (last == null ? "no time that is kept" : at(last)) + "; "
                + (since.equals(last) ? "" : "it is listened to since " + at(since) + "; ") + "after " + span(minutes)
                + " this is told. Either all is calm, or the sender, or the way to here, has failed.";
        Map<String, Object> said = words(source, "fault", "warning", text);
        return new Said("silence " + since, Json.write(said));
    }

    private static Said over(Source source, Instant told, String text) {
        return new Said("heard " + told, Json.write(words(source, "recovered", "cleared", text)));
    }

    private static Map<String, Object> words(Source source, String sort, String severity, String text) {
        Map<String, Object> said = new LinkedHashMap<>();
        said.put("sort", sort);
        said.put("severity", severity);
        said.put("matter", matter(source.key()));
        said.put("what", "silence");
        said.put("title", "Nothing comes from " + source.name());
        said.put("text", text);
        return said;
    }

    private static String at(Instant moment) {
        return moment.truncatedTo(ChronoUnit.SECONDS).toString();
    }

    private static String span(int minutes) {
        if (minutes % 1_440 == 0) {
            return minutes == 1_440 ? "a day" : minutes / 1_440 + " days";
        }
        return minutes % 60 == 0 ? minutes / 60 + " h" : minutes + " min";
    }

    /**
     * How long it usually is from one to the next: half of the pauses are shorter.
     *
     * @param came the latest, the newest first; from fewer than {@value #ENOUGH_TO_KNOW} nothing is said
     */
    public static Optional<Duration> usually(List<Instant> came) {
        if (came.size() < ENOUGH_TO_KNOW) {
            return Optional.empty();
        }
        List<Duration> pauses = new ArrayList<>();
        for (int i = 1; i < came.size(); i++) {
            pauses.add(Duration.between(came.get(i), came.get(i - 1)));
        }
        pauses.sort(null);
        return Optional.of(pauses.get(pauses.size() / 2));
    }
}
