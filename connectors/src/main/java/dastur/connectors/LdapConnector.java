package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.unboundid.ldap.sdk.Attribute;
import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.Entry;
import com.unboundid.ldap.sdk.ExtendedResult;
import com.unboundid.ldap.sdk.Filter;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPConnectionOptions;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.RDN;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.SearchRequest;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.ldap.sdk.extensions.StartTLSExtendedRequest;
import com.unboundid.util.ssl.HostNameSSLSocketVerifier;
import com.unboundid.util.ssl.JVMDefaultTrustManager;
import com.unboundid.util.ssl.SSLUtil;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.net.URI;
import java.security.GeneralSecurityException;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Looks entries of a directory up and changes them (LDAP, RFC 4511). Entries are named by what stands in them, and filters and names are
 * built from values, never from text, so that a value cannot widen what is meant. A name that fits none or several changes nothing.
 * Joining a group that somebody is in, and leaving one they are not in, is <em>already so</em>. TLS comes before the sign-in; referrals are not
 * followed.
 */
final class LdapConnector implements Connector {
    static final int MOST_ENTRIES = 2_000;

    private static final int CONNECT_MILLIS = 5_000;
    /** As many answers one call waits for at most: TLS, the sign-in, who and whom, the change. */
    private static final int MOST_QUESTIONS = 5;

    /** No answer of the directory, but that there is none. */
    private static final Set<ResultCode> BROKEN = Set.of(
            ResultCode.SERVER_DOWN,
            ResultCode.TIMEOUT,
            ResultCode.CONNECT_ERROR,
            ResultCode.DECODING_ERROR,
            ResultCode.LOCAL_ERROR);

    /** What a group is, by its kind: how its members are named (RFC 4519, RFC 2307). */
    private static final Set<String> BY_NAME = Set.of("groupofnames", "groupofuniquenames", "group");

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat) {
        long started = System.nanoTime();
        var scrub = Answers.scrub(secret);
        boolean sent = false;
        try {
            JsonNode body = body(call.body());
            try (LDAPConnection at = open(connection, secret, call.limitSeconds())) {
                Directory directory = new Directory(at, new DN(base(connection)));
                sent = true;
                JsonNode answer = directory.done(call.method(), body);
                long millis = (System.nanoTime() - started) / 1_000_000;
                heartbeat.answered(scrub.apply(answer.toString()));
                String log =
                        call.method() + " in " + millis + " ms\n" + Texts.clip(answer.toString(), Answers.MAX_LOGGED);
                return Answers.done(call, answer, scrub, log, millis, 0);
            }
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        } catch (LDAPException e) {
            return failed(
                    connection,
                    e,
                    sent && !call.method().equals("SEARCH"),
                    scrub.apply(String.valueOf(e.getMessage())));
        } catch (GeneralSecurityException e) {
            return new CallOutcome.Failed("TLS to " + connection.name() + " could not be prepared.");
        }
    }

    /** Signs in and looks at the base; whether anything may be changed, only changing it tells. */
    Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite {
        try (LDAPConnection at = open(connection, secret, Greeter.SECONDS)) {
            Greeted.Given looks = looks(at, base(connection));
            return Greeted.in(calls.stream()
                    .map(c -> c.method().equals("SEARCH")
                            ? looks
                            : Greeted.Given.cannotSay("Only changing something would tell."))
                    .toList());
        } catch (LDAPException e) {
            String said = Texts.clip(String.valueOf(e.getMessage()), 200);
            throw BROKEN.contains(e.getResultCode())
                    ? Definite.unreached("No connection to " + connection.name() + ".")
                    : new Definite(connection.name() + " refused it ("
                            + e.getResultCode().getName() + "): " + said);
        } catch (GeneralSecurityException e) {
            throw Definite.ours("TLS to " + connection.name() + " could not be prepared.");
        }
    }

    private static Greeted.Given looks(LDAPConnection at, String base) {
        try {
            at.search(base, SearchScope.BASE, Filter.createPresenceFilter("objectClass"), "1.1");
            return Greeted.Given.YES;
        } catch (LDAPException e) {
            return BROKEN.contains(e.getResultCode())
                    ? Greeted.Given.cannotSay("The connection broke.")
                    : Greeted.Given.no(e.getResultCode().getName());
        }
    }

    /** Where no answer came to a change, nobody knows. */
    private static CallOutcome failed(Connection connection, LDAPException e, boolean changes, String said) {
        ResultCode code = e.getResultCode();
        boolean broke = BROKEN.contains(code);
        if (broke && changes) {
            return new CallOutcome.Unknown("The connection to " + connection.name() + " broke before an answer came.");
        }
        return new CallOutcome.Failed(
                broke
                        ? "No connection to " + connection.name() + "."
                        : connection.name() + " refused it (" + code.getName() + "): " + Texts.clip(said, 200),
                broke);
    }

    private static String base(Connection connection) {
        return URI.create(connection.base()).getPath().substring(1);
    }

    private static JsonNode body(@Nullable String body) throws Definite {
        try {
            JsonNode read = Json.parse(body == null ? "" : body);
            if (read.isObject()) {
                return read;
            }
        } catch (JsonProcessingException e) {
            // Said below.
        }
        throw Definite.ours("The body is JSON that names an entry, such as {\"group\": {\"cn\": \"roster\"}}.");
    }

    private static LDAPConnection open(Connection connection, @Nullable String secret, long limit)
            throws LDAPException, GeneralSecurityException {
        URI uri = URI.create(connection.base());
        String query = uri.getQuery() == null ? "" : uri.getQuery();
        boolean plain = query.endsWith("tls=none");
        boolean fromTheStart = "ldaps".equals(uri.getScheme());
        LDAPConnectionOptions options = new LDAPConnectionOptions();
        options.setConnectTimeoutMillis(CONNECT_MILLIS);
        options.setResponseTimeoutMillis(limit * 1_000 / MOST_QUESTIONS);
        options.setFollowReferrals(false);
        // The certificate must be of that host, not only of one that is trusted (RFC 4513, 3.1.3).
        options.setSSLSocketVerifier(new HostNameSSLSocketVerifier(false));
        options.setMaxMessageSize(4 * Answers.MAX_ANSWER);
        SSLUtil tls = new SSLUtil(JVMDefaultTrustManager.getInstance());
        int port = uri.getPort() > 0 ? uri.getPort() : fromTheStart ? 636 : 389;
        LDAPConnection at = fromTheStart
                ? new LDAPConnection(tls.createSSLSocketFactory(), options, uri.getHost(), port)
                : new LDAPConnection(options, uri.getHost(), port);
        try {
            if (!fromTheStart && !plain) {
                ExtendedResult begun = at.processExtendedOperation(new StartTLSExtendedRequest(tls.createSSLContext()));
                if (!begun.getResultCode().equals(ResultCode.SUCCESS)) {
                    throw new LDAPException(begun);
                }
            }
            if (query.startsWith("bind=")) {
                at.bind(
                        query.substring("bind=".length()).replaceFirst("&?tls=none$", ""),
                        secret == null ? "" : secret);
            }
            return at;
        } catch (LDAPException e) {
            at.close();
            throw e;
        }
    }

    /** What is below the connection's base. */
    private record Directory(LDAPConnection at, DN base) {
        JsonNode done(String method, JsonNode body) throws LDAPException, Definite, Doubtful {
            return switch (method) {
                case "SEARCH" -> search(body);
                case "JOIN" -> member(body, true);
                case "LEAVE" -> member(body, false);
                case "CREATE" -> create(body);
                case "MODIFY" -> modify(body);
                default -> throw Definite.ours("There is no '" + method + "' in a directory.");
            };
        }

        private static Filter filter(JsonNode named, String what) throws Definite {
            List<Filter> all = new ArrayList<>();
            named.properties().forEach(p -> {
                String value = p.getValue().asText("");
                if (!value.isBlank() && p.getKey().matches("[A-Za-z][A-Za-z0-9-]*")) {
                    all.add(Filter.createEqualityFilter(p.getKey(), value));
                }
            });
            if (all.isEmpty() || all.size() != named.size()) {
                throw Definite.ours(
                        "Say which " + what + ": by attributes with a value each, such as {\"cn\": \"roster\"}.");
            }
            return Filter.createANDFilter(all);
        }

        private SearchResultEntry one(JsonNode body, String what) throws LDAPException, Definite {
            JsonNode named = body.path(what);
            SearchRequest request = new SearchRequest(base.toString(), SearchScope.SUB, filter(named, what), "*");
            request.setSizeLimit(2);
            List<SearchResultEntry> found = found(request);
            if (found.size() != 1) {
                throw new Definite((found.isEmpty() ? "There is no " : "There is more than one ") + what + " with "
                        + Texts.clip(named.toString(), 100) + ". Nothing was changed.");
            }
            return found.getFirst();
        }

        /** What was found, also where there is more than was asked for. */
        private List<SearchResultEntry> found(SearchRequest request) throws LDAPException {
            try {
                return at.search(request).getSearchEntries();
            } catch (com.unboundid.ldap.sdk.LDAPSearchException e) {
                if (e.getResultCode().equals(ResultCode.SIZE_LIMIT_EXCEEDED)) {
                    return e.getSearchEntries();
                }
                throw e;
            }
        }

        private JsonNode search(JsonNode body) throws LDAPException, Definite {
            List<String> give = new ArrayList<>();
            body.path("give").forEach(a -> give.add(a.asText()));
            SearchRequest request = new SearchRequest(
                    base.toString(),
                    SearchScope.SUB,
                    filter(body.path("where"), "entries"),
                    give.isEmpty() ? new String[] {"*"} : give.toArray(String[]::new));
            request.setSizeLimit(MOST_ENTRIES + 1);
            List<SearchResultEntry> found = found(request);
            if (found.size() > MOST_ENTRIES) {
                throw new Definite("There are more than " + MOST_ENTRIES
                        + " entries. A list is never cut: say more of what" + " stands in them.");
            }
            ObjectNode answer = Json.mapper().createObjectNode();
            ArrayNode entries = answer.putArray("entries");
            for (SearchResultEntry entry : found) {
                ObjectNode row = entries.addObject().put("dn", entry.getDN());
                for (Attribute attribute : entry.getAttributes()) {
                    put(row, attribute);
                }
            }
            return answer.put("count", entries.size());
        }

        private static void put(ObjectNode row, Attribute attribute) {
            // What signs people in is nobody's to read.
            if (attribute.getBaseName().toLowerCase(java.util.Locale.ROOT).contains("password")) {
                return;
            }
            if (attribute.size() == 1) {
                row.put(attribute.getBaseName(), attribute.getValue());
            } else {
                row.set(attribute.getBaseName(), Json.tree(List.of(attribute.getValues())));
            }
        }

        private JsonNode member(JsonNode body, boolean joins) throws LDAPException, Definite {
            SearchResultEntry group = one(body, "group");
            SearchResultEntry member = one(body, "member");
            boolean byName = List.of(group.getObjectClassValues()).stream()
                    .anyMatch(c -> BY_NAME.contains(c.toLowerCase(java.util.Locale.ROOT)));
            String attribute =
                    !byName ? "memberUid" : group.hasObjectClass("groupOfUniqueNames") ? "uniqueMember" : "member";
            String value = byName ? member.getDN() : member.getAttributeValue("uid");
            if (value == null) {
                throw new Definite(
                        "The member has no uid, by which this group names its members. Nothing was changed.");
            }
            ObjectNode answer =
                    Json.mapper().createObjectNode().put("group", group.getDN()).put("member", member.getDN());
            try {
                at.modify(
                        group.getDN(),
                        new Modification(joins ? ModificationType.ADD : ModificationType.DELETE, attribute, value));
                return answer.put("status", joins ? "joined" : "left");
            } catch (LDAPException e) {
                boolean so = e.getResultCode()
                        .equals(joins ? ResultCode.ATTRIBUTE_OR_VALUE_EXISTS : ResultCode.NO_SUCH_ATTRIBUTE);
                if (so) {
                    return answer.put("status", "already so");
                }
                throw e;
            }
        }

        private JsonNode create(JsonNode body) throws LDAPException, Definite {
            JsonNode attributes = body.path("attributes");
            String by = body.path("named").asText("");
            String value = attributes.path(by).asText("");
            if (by.isBlank() || value.isBlank()) {
                throw Definite.ours(
                        "Say by which attribute the entry is named, and give it, such as {\"named\": \"uid\","
                                + " \"under\": \"ou=people\", \"attributes\": {\"uid\": \"...\"}}.");
            }
            DN under = body.path("under").asText("").isBlank()
                    ? base
                    : new DN(body.path("under").asText() + "," + base);
            Entry entry = new Entry(new DN(new RDN(by, value), under));
            attributes.properties().forEach(p -> values(p.getValue()).forEach(v -> entry.addAttribute(p.getKey(), v)));
            try {
                at.add(entry);
                return Json.mapper().createObjectNode().put("status", "created").put("dn", entry.getDN());
            } catch (LDAPException e) {
                if (e.getResultCode().equals(ResultCode.ENTRY_ALREADY_EXISTS)) {
                    throw new Definite("There is an entry " + entry.getDN() + " already. Nothing was changed.");
                }
                throw e;
            }
        }

        private JsonNode modify(JsonNode body) throws LDAPException, Definite {
            SearchResultEntry entry = one(body, "entry");
            List<Modification> changes = new ArrayList<>();
            ObjectNode before = Json.mapper().createObjectNode();
            body.path("set").properties().forEach(p -> {
                List<String> values = values(p.getValue());
                changes.add(new Modification(ModificationType.REPLACE, p.getKey(), values.toArray(String[]::new)));
                Attribute was = entry.getAttribute(p.getKey());
                if (was != null) {
                    put(before, was);
                }
            });
            if (changes.isEmpty()) {
                throw Definite.ours("Say what is set, such as {\"set\": {\"description\": \"...\"}}.");
            }
            at.modify(entry.getDN(), changes);
            ObjectNode answer =
                    Json.mapper().createObjectNode().put("status", "changed").put("dn", entry.getDN());
            answer.set("before", before);
            return answer;
        }

        /** One, several, or none where it is to be taken away. */
        private static List<String> values(JsonNode value) {
            List<String> all = new ArrayList<>();
            if (value.isArray()) {
                value.forEach(v -> all.add(v.asText()));
            } else if (!value.isNull() && !value.asText().isEmpty()) {
                all.add(value.asText());
            }
            return all;
        }
    }
}
