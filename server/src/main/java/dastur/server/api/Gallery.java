package dastur.server.api;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowVersion;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Workflows that ship with the product, in general words, for an organisation to begin with (O3). Each is a text in the notation;
 * whoever takes one says which group does the work and which decides.
 */
final class Gallery {
    /** In the order in which they are offered. */
    static final List<String> KEYS = List.of(
            "something-does-not-work",
            "a-service-is-down",
            "access-to-something",
            "a-thing-for-somebody",
            "a-change-that-is-decided",
            "a-change-done-the-same-way",
            "a-change-that-cannot-wait",
            "somebody-begins",
            "somebody-leaves",
            "why-did-it-happen");

    private static final String WORK = "group WORK";
    private static final String DECIDE = "group DECIDE";
    private static final String OWNER = "owner OWNER";

    /** One of them. @param decides whether it needs a group that decides beside the one that does the work */
    record Template(
            String key,
            String name,
            @Nullable String purpose,
            @Nullable TicketKind kind,
            int steps,
            boolean decides) {}

    private final Map<String, String> texts = new LinkedHashMap<>();

    Gallery() {
        KEYS.forEach(key -> texts.put(key, text(key)));
    }

    List<Template> all() {
        GroupId any = new GroupId("any");
        return texts.keySet().stream()
                .map(key -> {
                    WorkflowVersion v = of(key, new PersonId("any"), any, any).orElseThrow();
                    return new Template(
                            key,
                            v.name(),
                            v.purpose(),
                            v.kind(),
                            (int) v.body().all().count(),
                            texts.get(key).contains(DECIDE));
                })
                .toList();
    }

    /** One as a version of its owner's. @param decide who decides; only where it says so */
    Optional<WorkflowVersion> of(String key, PersonId owner, GroupId work, GroupId decide) {
        return Optional.ofNullable(texts.get(key))
                .map(text -> text.replace(OWNER, "owner " + owner)
                        .replace(WORK, "group " + work)
                        .replace(DECIDE, "group " + decide))
                .map(text -> Notation.read(text, 1, Names.NONE))
                .map(read -> Objects.requireNonNull(read.version(), () -> key + ": " + read.problems()));
    }

    boolean decides(String key) {
        return texts.getOrDefault(key, "").contains(DECIDE);
    }

    private static String text(String key) {
        try (InputStream in = Gallery.class.getResourceAsStream("/gallery/" + key + ".dastur")) {
            return new String(Objects.requireNonNull(in, key).readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
