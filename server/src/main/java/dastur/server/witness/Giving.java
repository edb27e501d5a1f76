package dastur.server.witness;

import dastur.connectors.MailConnector;
import dastur.connectors.Posting;
import dastur.connectors.TimeStamps;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import dastur.store.Witnesses;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Gives signed statements to all who were named, each as often as it wants one. Each has a thread of its own while it is given
 * one, so that one who is slow delays neither the log nor another.
 */
public final class Giving {
    private static final Logger LOG = LoggerFactory.getLogger(Giving.class);
    private static final Duration CONNECT = Duration.ofSeconds(5);
    private static final Duration AGAIN = Duration.ofMinutes(1);
    /** After this long without one the page says so loudly. */
    private static final Duration LATE = Duration.ofHours(1);

    /**
     * Who is to be given statements.
     *
     * @param to files, mailto: addresses, and http(s): addresses to post to
     * @param stamps an authority that stamps them; null for none
     */
    public record To(List<String> to, @Nullable Stamps stamps) {
        public static final To NOBODY = new To(List.of(), null);

        /** @throws IllegalArgumentException when one can be no address; the message says which */
        public To {
            to.stream().filter(t -> !isFile(t)).forEach(To::address);
        }

        private static boolean isFile(String to) {
            return !to.startsWith("mailto:") && !to.startsWith("http:") && !to.startsWith("https:");
        }

        private static URI address(String to) {
            URI address = URI.create(to);
            if (!to.startsWith("mailto:") && address.getHost() == null
                    || to.startsWith("mailto:") && !to.contains("@")) {
                throw new IllegalArgumentException("\"" + to
                        + "\" is no witness. Name a file, mailto:somebody@example.org, or https://host/path.");
            }
            return address;
        }
    }

    /** An authority. @param certificate the one that is believed, in PEM or DER */
    public record Stamps(URI address, byte[] certificate) {
        /** @throws UncheckedIOException when the file cannot be read */
        public static Stamps of(String address, Path certificate) {
            try {
                return new Stamps(URI.create(address), Files.readAllBytes(certificate));
            } catch (IOException e) {
                throw new UncheckedIOException("The certificate " + certificate + " cannot be read.", e);
            }
        }
    }

    /**
     * How giving one of them statements stands.
     *
     * @param given what it was given last; null when nothing yet
     * @param trouble why it cannot be given any; null while all is well, and on nodes that do not give
     * @param late whether it should have had one an hour ago
     */
    public record Standing(
            Witnessed.Kind kind,
            String name,
            Duration every,
            @Nullable Witnessed given,
            @Nullable String trouble,
            boolean late) {}

    private static final class Slot {
        final Witness witness;
        final AtomicBoolean busy = new AtomicBoolean();
        volatile @Nullable Instant tried;
        volatile @Nullable String trouble;

        Slot(Witness witness) {
            this.witness = witness;
        }
    }

    private final Witnesses kept;
    private final List<Slot> slots = new ArrayList<>();
    private final Witnessed.Receipts receipts;
    private final Instant since;

    /**
     * @param token what programs that are posted to want as a bearer token, where it is set
     * @param since when the application was started
     */
    public Giving(To to, Witnesses kept, MailConnector mail, Supplier<Optional<String>> token, Instant since) {
        this.kept = kept;
        this.since = since;
        HttpClient http = HttpClient.newBuilder()
                .connectTimeout(CONNECT)
                .followRedirects(HttpClient.Redirect.NEVER)
                .build();
        Posting posting = new Posting(http);
        for (String one : to.to()) {
            if (To.isFile(one)) {
                slots.add(new Slot(new FileWitness(Path.of(one))));
            } else if (one.startsWith("mailto:")) {
                slots.add(new Slot(new MailWitness(mail, one.substring("mailto:".length()))));
            } else {
                slots.add(new Slot(new PostWitness(posting, URI.create(one), token)));
            }
        }
        if (to.stamps() == null) {
            receipts = Witnessed.Receipts.NONE;
        } else {
            TimeStamps stamps =
                    new TimeStamps(TimeStamps.certificate(to.stamps().certificate()));
            slots.add(new Slot(new StampWitness(http, to.stamps().address(), stamps)));
            receipts = StampWitness.receipts(stamps);
        }
    }

    /** Looks at what authorities gave back. */
    public Witnessed.Receipts receipts() {
        return receipts;
    }

    /** The same, for whoever has only an authority's certificate. */
    public static Witnessed.Receipts receipts(Path certificate) throws IOException {
        return StampWitness.receipts(new TimeStamps(TimeStamps.certificate(Files.readAllBytes(certificate))));
    }

    /** Gives a statement to each whose turn it is. Returns at once; what fails is tried again with a later one. */
    public void give(Checkpoint checkpoint) {
        for (Slot slot : slots) {
            if (checkpoint.size() != null && isDue(slot, checkpoint) && slot.busy.compareAndSet(false, true)) {
                Thread.ofVirtual().name("dastur-witness").start(() -> {
                    try {
                        give(slot, checkpoint);
                    } finally {
                        slot.busy.set(false);
                    }
                });
            }
        }
    }

    private boolean isDue(Slot slot, Checkpoint checkpoint) {
        Instant tried = slot.tried;
        if (tried == null) {
            return true;
        }
        Duration pause = slot.trouble == null ? slot.witness.every() : AGAIN;
        return !tried.plus(pause).isAfter(checkpoint.at());
    }

    private void give(Slot slot, Checkpoint checkpoint) {
        Witness witness = slot.witness;
        try {
            if (slot.tried == null) {
                // After a start nobody is given one earlier than they want it.
                Optional<Witnessed> last = kept.last(witness.name());
                if (last.isPresent()
                        && last.get().at().plus(witness.every()).isAfter(checkpoint.at())
                        && Integer.valueOf(last.get().checkpoint().epoch()).equals(checkpoint.epoch())) {
                    slot.tried = last.get().at();
                    return;
                }
            }
            slot.tried = checkpoint.at();
            String receipt = witness.give(checkpoint);
            kept.keep(new Witnessed(witness.kind(), witness.name(), checkpoint.at(), checkpoint, receipt));
            if (slot.trouble != null) {
                LOG.info("signed statements can be given to {} again", witness.name());
            }
            slot.trouble = null;
        } catch (Witness.NotGiven e) {
            if (slot.trouble == null) {
                LOG.warn("signed statements cannot be given to {}: {}", witness.name(), e.getMessage());
            }
            slot.trouble = e.getMessage();
        } catch (RuntimeException e) {
            LOG.error("what {} was given could not be kept", witness.name(), e);
            slot.trouble = "It was given one, but that could not be kept.";
        }
    }

    /** How giving stands with each. */
    public List<Standing> standing(Instant now) {
        List<Standing> all = new ArrayList<>();
        for (Slot slot : slots) {
            Witness w = slot.witness;
            Witnessed last = kept.last(w.name()).orElse(null);
            Instant had = last == null ? since : last.at();
            boolean late = had.plus(w.every()).plus(LATE).isBefore(now);
            all.add(new Standing(w.kind(), w.name(), w.every(), last, slot.trouble, late));
        }
        return all;
    }

    /** An address as it may be shown: who signs in there, and what is asked, are left out. */
    static String withoutSecrets(URI address) {
        String port = address.getPort() < 0 ? "" : ":" + address.getPort();
        return address.getScheme() + "://" + address.getHost() + port + address.getPath();
    }
}
