package dastur.core.run;

import dastur.core.partner.PartnerKey;
import java.time.Instant;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * That a ticket is followed at a partner's desk (I16).
 *
 * @param id of theirs
 * @param link where it is read there; null where they name none
 * @param theirs whether it was theirs first
 * @param over whether it is followed no longer
 * @param since when it is followed, or followed no longer
 * @param why it is followed no longer; null while it is, and where an earlier release did not keep it
 * @param differences what both have said otherwise, by field, until somebody says what counts
 * @param kept what we hold to against a word of theirs, by field
 */
public record AtPartner(
        PartnerKey partner,
        String id,
        @Nullable String link,
        boolean theirs,
        boolean over,
        Instant since,
        @Nullable String why,
        TreeMap<String, Difference> differences,
        TreeMap<String, Kept> kept) {
    /**
     * What both sides say of a field, until somebody says what counts.
     *
     * @param label of the field, as people know it
     * @param ours what we say; absent for nothing, or where it was taken away
     * @param word what they say, in their words
     * @param theirs what that means here; absent where it means nothing
     */
    public record Difference(
            String field,
            String label,
            @Nullable String ours,
            @Nullable String word,
            @Nullable Object theirs,
            String why,
            Assigned asked,
            Instant at) {}

    /** Held to against a word of theirs. @param seq the entry that says so */
    public record Kept(@Nullable String word, long seq) {}

    public AtPartner {
        differences = differences == null ? new TreeMap<>() : differences;
        kept = kept == null ? new TreeMap<>() : kept;
    }

    AtPartner with(Difference difference) {
        TreeMap<String, Difference> all = new TreeMap<>(differences);
        all.put(difference.field(), difference);
        return new AtPartner(partner, id, link, theirs, over, since, why, all, kept);
    }

    AtPartner without(String field, @Nullable Kept held) {
        TreeMap<String, Difference> all = new TreeMap<>(differences);
        all.remove(field);
        TreeMap<String, Kept> holds = new TreeMap<>(kept);
        if (held != null) {
            holds.put(field, held);
        }
        return new AtPartner(partner, id, link, theirs, over, since, why, all, holds);
    }

    AtPartner left(Instant at, String because) {
        return new AtPartner(partner, id, link, theirs, true, at, because, new TreeMap<>(), kept);
    }
}
