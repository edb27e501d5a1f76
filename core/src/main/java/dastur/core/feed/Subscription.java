package dastur.core.feed;

import dastur.core.people.PersonId;
import java.net.URI;
import java.util.List;

/**
 * Somebody elsewhere who is told of what happens here.
 *
 * @param address where events are posted to; http or https
 * @param fields of the ticket that each event carries, as they are when it is sent; texts of entries are never sent
 * @param as whose rights count: what this account may not see is not sent
 */
public record Subscription(
        SubscriptionKey key, String name, boolean on, String address, Wanted wanted, List<String> fields, PersonId as) {
    private static final int MOST_FIELDS = 40;

    public Subscription {
        if (name == null || name.isBlank() || name.length() > 200) {
            throw new IllegalArgumentException("A subscription has a name of at most 200 characters.");
        }
        fields = fields == null ? List.of() : List.copyOf(fields);
        if (fields.size() > MOST_FIELDS) {
            throw new IllegalArgumentException("A subscription carries at most " + MOST_FIELDS + " fields.");
        }
        check(address);
    }

    private static void check(String address) {
        try {
            URI uri = URI.create(address);
            boolean web = "http".equals(uri.getScheme()) || "https".equals(uri.getScheme());
            if (!web || uri.getHost() == null || uri.getUserInfo() != null || address.length() > 500) {
                throw new IllegalArgumentException();
            }
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(
                    "An address begins with http:// or https:// and names a host, without a user.");
        }
    }
}
