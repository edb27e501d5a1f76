package dastur.standins;

import java.util.List;
import java.util.Map;

/** Copies what the piers' gateways hold, each night, and writes a mail about it. */
public final class CopyVault {
    public static final String FROM = "vault@copies.kestrel.example";

    private static final String GATEWAY = "GNQ-GW1";

    private final Mailbox mailbox;
    private volatile boolean failed;

    CopyVault(Mailbox mailbox) {
        this.mailbox = mailbox;
    }

    /** Tonight's copy of a gateway fails, or is made after all. */
    public void failsOrNot() {
        failed = !failed;
        String word = failed ? "FAILED" : "DONE";
        mailbox.machine(FROM, Mailbox.MACHINES, subject(word), text(failed));
    }

    private static String subject(String word) {
        return "[" + word + "] nightly copy of " + GATEWAY;
    }

    private static String text(boolean failed) {
        return failed ? "The disk of the vault is full. Nothing was copied." : "412 files, 96 MB.";
    }

    /** The mail that it wrote in a night long ago. */
    public static Map<String, Object> mail(String id, boolean failed) {
        return Map.of(
                "id",
                id,
                "from",
                FROM,
                "to",
                List.of(Mailbox.MACHINES),
                "subject",
                subject(failed ? "FAILED" : "DONE"),
                "text",
                text(failed));
    }

    boolean failed() {
        return failed;
    }
}
