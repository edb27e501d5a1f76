package dastur.standins;

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
        mailbox.machine(
                FROM,
                Mailbox.MACHINES,
                "[" + word + "] nightly copy of " + GATEWAY,
                failed ? "The disk of the vault is full. Nothing was copied." : "412 files, 96 MB.");
    }

    boolean failed() {
        return failed;
    }
}
