package dastur.core.workflow;

import dastur.core.json.Texts;
import java.net.URI;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** How an outside system is spoken to; the scheme of a connection's address says it (N46). */
public enum Protocol {
    /** HTTP/1.1 (RFC 9110) with JSON. */
    HTTP("http", List.of("GET", "POST", "PUT", "PATCH", "DELETE")),
    /** A command on another machine over SSH (RFC 4254, section 6.5): its words as a JSON list in the body. */
    SSH("ssh", List.of("RUN")),
    /** DNS: ASK is a query of the path's name and type (RFC 1035), UPDATE sets what stands there (RFC 2136). */
    DNS("dns", List.of("ASK", "UPDATE")),
    /** One SQL statement at a PostgreSQL server: QUERY in a transaction that cannot write, CHANGE in one of its own. */
    SQL("postgresql", List.of("QUERY", "CHANGE")),
    /** Files on another machine over SSH (SFTP, version 3): LIST, FETCH, STORE, RENAME and REMOVE below a root. */
    SFTP("sftp", List.of("LIST", "FETCH", "STORE", "RENAME", "REMOVE")),
    /** A directory (LDAP, RFC 4511): SEARCH, JOIN and LEAVE a group, CREATE and MODIFY an entry. */
    LDAP("ldap", List.of("SEARCH", "JOIN", "LEAVE", "CREATE", "MODIFY")),
    /** A walk through pages in a browser of its own (M12): the path is where it begins, its steps are a JSON list in the body. */
    WALK("walk+http", List.of("WALK")),
    /** A script of a relay's own folder, by its name in the path; its arguments as a JSON list in the body (M14). */
    SCRIPT("script", List.of("START"));

    /** How the address of a connection begins whose calls a relay makes, out of its zone (M13). */
    public static final String RELAY = "relay://";

    private final String scheme;
    private final List<String> methods;

    Protocol(String scheme, List<String> methods) {
        this.scheme = scheme;
        this.methods = methods;
    }

    /** What an action may ask for over it. */
    public List<String> methods() {
        return methods;
    }

    /**
     * The protocol of an address, checked as far as each needs it.
     *
     * @throws IllegalArgumentException when the address is none that can be used; the message says how to mend it
     */
    public static Protocol of(String address) {
        URI uri = URI.create(address);
        if ("relay".equals(uri.getScheme())) {
            return inZone(uri);
        }
        String scheme =
                switch (uri.getScheme()) {
                    case "https" -> "http";
                    case "ldaps" -> "ldap";
                    case "walk+https" -> "walk+http";
                    case null, default -> uri.getScheme();
                };
        Optional<Protocol> found =
                Arrays.stream(values()).filter(p -> p.scheme.equals(scheme)).findFirst();
        if (found.isEmpty() || found.get() == SCRIPT || uri.getHost() == null) {
            throw new IllegalArgumentException(
                    "An address begins with http://, https://, walk+https://, ssh://, sftp://, dns://, postgresql://, ldap:// or ldaps:// and names a host, or with relay:// and names a zone.");
        }
        if (found.get() == SSH || found.get() == SFTP) {
            checkSsh(scheme, uri.getUserInfo(), uri.getRawQuery());
        } else if (found.get() == SQL) {
            checkSql(uri);
        } else if (found.get() == LDAP) {
            checkLdap(uri);
        } else if (uri.getUserInfo() != null) {
            throw new IllegalArgumentException("No user or password stands in an address: name a secret instead.");
        }
        return found.get();
    }

    /** Whether what a call says while it goes on is a log, and not its answer. @param method what the call asks for */
    public static boolean tells(String method) {
        return SSH.methods.contains(method) || SCRIPT.methods.contains(method) || WALK.methods.contains(method);
    }

    /** Where the pages of a walk stand, from the address of its connection. */
    public static String walked(String address) {
        return address.replaceFirst("^walk\\+", "");
    }

    /** What a relay speaks at its end; where that is reached, only its own file says. */
    private static Protocol inZone(URI uri) {
        String how = uri.getRawQuery() == null ? "" : uri.getRawQuery().replaceFirst("^as=", "");
        Optional<Protocol> found = Arrays.stream(values())
                .filter(p -> p != WALK && p.scheme.equals(how))
                .findFirst();
        boolean named = uri.getRawAuthority() != null
                && Texts.isId(uri.getRawAuthority())
                && uri.getRawPath() != null
                && uri.getRawPath().startsWith("/")
                && Texts.isId(uri.getRawPath().substring(1));
        if (!named || found.isEmpty() || uri.getRawFragment() != null) {
            throw new IllegalArgumentException(
                    "A relay:// address is relay://ZONE/NAME?as=http (or ssh, sftp, dns, postgresql, ldap, script): the zone, and what the file of its relays calls the connection.");
        }
        return found.get();
    }

    private static void checkSsh(@Nullable String scheme, @Nullable String user, @Nullable String query) {
        if (user == null || user.contains(":")) {
            throw new IllegalArgumentException("An " + scheme + ":// address names its user, such as " + scheme
                    + "://dastur@host; the password or key is a secret.");
        }
        if (query == null || !query.matches("hostkey=SHA256:[A-Za-z0-9+/]{43}=?")) {
            throw new IllegalArgumentException(
                    "An " + scheme
                            + ":// address ends with the host's key, ?hostkey=SHA256:… as ssh-keygen -lf prints it, so that no other machine can stand in for it.");
        }
    }

    private static void checkSql(URI uri) {
        String user = uri.getUserInfo();
        if (user == null || user.contains(":")) {
            throw new IllegalArgumentException(
                    "A postgresql:// address names its user, such as postgresql://dastur@host/fleet; the password is a secret.");
        }
        if (uri.getPath() == null || !uri.getPath().matches("/[A-Za-z0-9_-]{1,63}")) {
            throw new IllegalArgumentException(
                    "A postgresql:// address ends with the database, such as postgresql://dastur@host/fleet.");
        }
        if (uri.getRawQuery() != null && !uri.getRawQuery().equals("tls=none")) {
            throw new IllegalArgumentException(
                    "Nothing follows the database but ?tls=none, for a server without TLS in a network of one's own.");
        }
    }

    private static void checkLdap(URI uri) {
        if (uri.getUserInfo() != null) {
            throw new IllegalArgumentException(
                    "A directory is signed in to by a name of its own: ?bind=cn=dastur,dc=kestrel,dc=example; the password is a secret.");
        }
        if (uri.getPath() == null || !uri.getPath().matches("/[A-Za-z][A-Za-z0-9-]*=.{1,300}")) {
            throw new IllegalArgumentException(
                    "An ldap:// address ends with where the entries stand, such as ldap://host/dc=kestrel,dc=example.");
        }
        String query = uri.getQuery();
        if (query != null && !query.matches("(bind=[^&]{3,300})?(&?tls=none)?")) {
            throw new IllegalArgumentException(
                    "What follows is ?bind=… and &tls=none, for a server without TLS in a network of one's own.");
        }
    }
}
