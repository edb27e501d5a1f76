package dastur.connectors;

import dastur.core.workflow.Connection;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;

/**
 * The outward guard (M10). Whoever runs the name service of an outside system could let its name lead to this machine itself, or to what
 * only this machine reaches, such as the service that tells a virtual machine its keys. So a name never leads to loopback, link-local,
 * multicast or unspecified addresses, unless an administrator wrote that very address into the connection. An address that is written as
 * one is what an administrator meant.
 *
 * <p>Names are looked up once here, and once more by whatever opens the connection; {@link OutwardNames} leaves such addresses out of both,
 * so that a name that changes in between gains nothing.
 */
public final class Outward {
    /** Nothing was sent. */
    public static final class Refused extends Exception {
        private static final long serialVersionUID = 1;

        Refused(String message) {
            super(message);
        }
    }

    /** Names that are guarded, in small letters, with the addresses that they may lead to all the same. */
    private static final Map<String, Set<InetAddress>> GUARDED = new ConcurrentHashMap<>();

    /** So many names are configured at most; more are guarded by the look of before alone. */
    private static final int MOST = 10_000;

    private Outward() {}

    /** @throws Refused when a host of the connection leads where nothing of it may */
    static void check(Connection connection, String host) throws Refused {
        check(
                host,
                Stream.concat(
                                Stream.ofNullable(URI.create(connection.base()).getHost()),
                                connection.allowedHosts().stream().map(h -> h.replaceFirst(":\\d+$", "")))
                        .toList());
    }

    /** @param written the hosts that administrators wrote down @throws Refused when the host leads where it may not */
    public static void check(String host, List<String> written) throws Refused {
        if (isAddress(host)) {
            return;
        }
        Set<InetAddress> also = new HashSet<>();
        written.stream().filter(Outward::isAddress).forEach(a -> {
            try {
                also.add(InetAddress.getByName(bare(a)));
            } catch (UnknownHostException e) {
                // It is no address then, and permits none.
            }
        });
        guard(host, also);
        try {
            for (InetAddress address : InetAddress.getAllByName(host)) {
                if (isForbidden(address) && !also.contains(address)) {
                    throw new Refused(
                            "'" + host + "' leads to " + address.getHostAddress()
                                    + ", which is this machine or its own network. Nothing was sent. Where that is meant, write the address itself.");
                }
            }
        } catch (UnknownHostException e) {
            // Whatever opens the connection says so, in its own words.
        }
    }

    /** From here on a name leads to no forbidden address but these. */
    static void guard(String host, Set<InetAddress> also) {
        String name = host.toLowerCase(Locale.ROOT);
        if (GUARDED.size() < MOST || GUARDED.containsKey(name)) {
            // Of several connections to one name each is judged by its own list; who only looks the name up goes by all
            // of them.
            GUARDED.merge(name, Set.copyOf(also), Outward::both);
        }
    }

    private static Set<InetAddress> both(Set<InetAddress> some, Set<InetAddress> others) {
        Set<InetAddress> all = new HashSet<>(some);
        return all.addAll(others) ? Set.copyOf(all) : some;
    }

    /** Whether a host is an address, or this machine by the name that everybody knows: whoever wrote it meant it. */
    private static boolean isAddress(String host) {
        // What the platform takes for an address without asking anybody: 127.0.0.1, 127.1, 2130706433, ::1.
        return host.equalsIgnoreCase("localhost") || host.contains(":") || host.matches("[0-9.]+|\\[.*]");
    }

    private static String bare(String host) {
        return host.startsWith("[") && host.endsWith("]") ? host.substring(1, host.length() - 1) : host;
    }

    static boolean isForbidden(InetAddress address) {
        byte[] b = address.getAddress();
        boolean thisNetwork = b.length == 4 && b[0] == 0;
        return thisNetwork
                || address.isLoopbackAddress()
                || address.isLinkLocalAddress()
                || address.isMulticastAddress()
                || address.isAnyLocalAddress();
    }

    /** Whether a name may lead to an address. */
    static boolean mayLead(String host, InetAddress address) {
        Set<InetAddress> also = GUARDED.get(host.toLowerCase(Locale.ROOT));
        return also == null || also.contains(address) || !isForbidden(address);
    }
}
