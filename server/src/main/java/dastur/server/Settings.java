package dastur.server;

import dastur.server.witness.Giving;
import dastur.store.Database;
import dastur.store.Durability;
import java.nio.file.Path;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Everything that can be set, read once.
 *
 * @param data the folder for database, signing key and secrets
 * @param clock the time; the real one except in tests
 * @param address where people reach the application, for links in mails; null for this machine and the port
 * @param chat the address of a chat server that speaks the Matrix client-server API; null for none
 * @param inbox the mailbox to which people answer mails; null for none
 * @param proxies addresses of proxies whose word about who calls is believed
 * @param durability what an acknowledged change outlives
 * @param witnesses who outside is given signed statements of how far the log reaches
 * @param database the server on which records are kept, which several nodes may share; null for a file in the folder
 * @param copies which copies are taken by themselves
 * @param syslogPort where lines of syslog are taken; 0 for any free port, null for nowhere
 * @param callLease how long a call stays with a worker that shows no sign of life
 */
public record Settings(
        Path data,
        String host,
        int port,
        InstantSource clock,
        Duration callLease,
        MailServer mail,
        @Nullable String address,
        @Nullable String chat,
        @Nullable Inbox inbox,
        List<String> proxies,
        Durability durability,
        Giving.To witnesses,
        Database.@Nullable Server database,
        Copies copies,
        @Nullable Integer syslogPort) {
    /** Settings of an application that people reach on this machine. */
    public Settings(Path data, String host, int port, InstantSource clock, Duration callLease, MailServer mail) {
        this(
                data,
                host,
                port,
                clock,
                callLease,
                mail,
                null,
                null,
                null,
                List.of(),
                Durability.POWER,
                Giving.To.NOBODY,
                null,
                Copies.NONE,
                null);
    }

    /** The same, that takes lines of syslog. @param at the port; 0 for any that is free */
    public Settings withSyslog(int at) {
        return new Settings(
                data,
                host,
                port,
                clock,
                callLease,
                mail,
                address,
                chat,
                inbox,
                proxies,
                durability,
                witnesses,
                database,
                copies,
                at);
    }

    /** Copies that are taken by themselves. @param every zero for none @param kept how many of them; older ones are deleted */
    public record Copies(Duration every, int kept) {
        public static final Copies NONE = new Copies(Duration.ZERO, 0);

        public Copies {
            if (!every.isZero() && (every.isNegative() || kept < 1)) {
                throw new IllegalArgumentException("Copies are taken every so many hours, and at least one is kept.");
            }
        }
    }

    /** A mailbox that is read over IMAP, by TLS unless its port is 143. Its password is the secret "mailbox". */
    public record Inbox(String host, int port, String user) {}

    /** Where mail goes out. */
    public record MailServer(String host, int port, String from) {}

    public static final MailServer LOCAL_MAIL = new MailServer("localhost", 25, "dastur@localhost.localdomain");
    public static final Duration USUAL_LEASE = Duration.ofSeconds(20);
}
