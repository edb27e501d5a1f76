package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Recorded;
import dastur.core.run.Standing;
import dastur.core.ticket.TicketId;
import dastur.server.work.Touched;
import dastur.store.Records;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** What open browsers are told to read anew is enough, and no more than that (B10). */
class NewsTest extends OnDemo {
    /** Everything that lists show of a ticket, made from the case alone: by whose desk, and the lists of all. */
    private static final class Shown implements Standing.Changes {
        private final Map<String, Set<Object>> desks = new TreeMap<>();
        private final Set<Object> runs = new HashSet<>();
        private final Standing.Listed row;

        Shown(Case c) {
            row = Standing.Listed.of(c);
            Standing.changes(Case.none(c.id()), c, this);
            c.text("assignee").ifPresent(a -> desk("p:" + a, row));
        }

        private void desk(String whose, Object what) {
            desks.computeIfAbsent(whose, w -> new HashSet<>()).add(what);
        }

        @Override
        public void run(Standing.@Nullable RunLine before, Standing.@Nullable RunLine after) {
            runs.add(List.of(after, row.title()));
            if (after.status().equals("stalled")) {
                desk("p:" + after.owner(), after);
            }
        }

        @Override
        public void item(Standing.@Nullable Item before, Standing.@Nullable Item after) {
            runs.add(after);
            List<Object> told = List.of(after, row.title(), row.priority());
            after.who().forEach(w -> desk(w, told));
            if (after.claimedBy() != null) {
                desk("p:" + after.claimedBy(), told);
            }
        }

        @Override
        public void wait(Standing.@Nullable Wait before, Standing.@Nullable Wait after) {
            runs.add(after);
        }

        @Override
        public void call(Standing.@Nullable Call before, Standing.@Nullable Call after) {
            runs.add(after);
        }
    }

    /** Every entry of the demo's past, one after the other: whoever would see something else is told to look. */
    @Test
    void whateverLooksDifferentIsToldOf() {
        Records records = api.app().app().work().records();
        int entries = 0;
        int quiet = 0;
        for (JsonNode row : api.call("halvard", "GET", "/api/tickets?order=newest", null)
                .body()
                .get("items")) {
            TicketId ticket = new TicketId(row.get("number").asText());
            Case before = Case.none(ticket);
            for (Recorded r : records.of(ticket).stream().map(Seal::open).toList()) {
                Case after = Engine.apply(before, r);
                Touched touched = Touched.between(before, List.of(r), after);
                Shown was = new Shown(before);
                Shown is = new Shown(after);
                Set<String> differ = new HashSet<>(was.desks.keySet());
                differ.addAll(is.desks.keySet());
                differ.removeIf(w -> was.desks.getOrDefault(w, Set.of()).equals(is.desks.getOrDefault(w, Set.of())));
                assertThat(touched.whose()).as("%s, %s", ticket, r.event()).containsAll(differ);
                assertThat(touched.row())
                        .as("%s, %s", ticket, r.event())
                        .isEqualTo(before.kind() == null || !was.row.equals(is.row));
                if (!was.runs.equals(is.runs)) {
                    assertThat(touched.runs()).as("%s, %s", ticket, r.event()).isTrue();
                }
                entries++;
                if (touched.whose().isEmpty() && !touched.row() && !touched.runs()) {
                    quiet++;
                }
                before = after;
            }
        }
        assertThat(entries).isGreaterThan(500);
        assertThat(quiet).as("changes of which nobody's lists know").isGreaterThan(entries / 5);
    }

    /** A browser that listens, and what it was told. */
    private static BlockingQueue<JsonNode> listen(String person) throws IOException, InterruptedException {
        ApiClient.Signed by = api.signedAnew(person);
        HttpResponse<Stream<String>> stream = by.client()
                .send(
                        HttpRequest.newBuilder(URI.create(
                                        "http://127.0.0.1:" + api.app().port() + "/api/live"))
                                .header("Cookie", by.cookie())
                                .header("Accept", "text/event-stream")
                                .build(),
                        HttpResponse.BodyHandlers.ofLines());
        BlockingQueue<JsonNode> told = new LinkedBlockingQueue<>();
        Thread.ofVirtual().start(() -> stream.body()
                .filter(l -> l.startsWith("data:"))
                .forEach(l -> told.add(Json.read(l.substring(5).strip(), JsonNode.class))));
        assertThat(told.poll(10, TimeUnit.SECONDS)).as("hello").isNotNull();
        return told;
    }

    /** All that is told of a ticket up to an entry, its lists together. */
    private static List<String> lists(BlockingQueue<JsonNode> told, String ticket, long seq)
            throws InterruptedException {
        List<String> lists = new ArrayList<>();
        Instant end = Instant.now().plus(Duration.ofSeconds(30));
        while (Instant.now().isBefore(end)) {
            JsonNode news = told.poll(1, TimeUnit.SECONDS);
            if (news != null && news.path("ticket").asText().equals(ticket)) {
                news.path("lists").forEach(l -> lists.add(l.asText()));
                if (news.get("seq").asLong() >= seq) {
                    return lists;
                }
            }
        }
        throw new AssertionError("nothing was told of " + ticket + " up to entry " + seq);
    }

    private static long seq(ApiClient.Answer answer) {
        assertThat(answer.status()).as("%s", answer.body()).isLessThan(300);
        return answer.body().get("seq").asLong();
    }

    private static String plain(String requester) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"Nothing much\",\"requester\":\"" + requester
                                + "\",\"impact\":3,\"urgency\":3}}")
                .body()
                .get("ticket")
                .asText();
    }

    @Test
    void aNoteMakesNobodyReadAList() throws Exception {
        String ticket = plain("mira");
        BlockingQueue<JsonNode> runa = listen("runa");
        BlockingQueue<JsonNode> mira = listen("mira");
        long seq = seq(api.call(
                "ada", "POST", "/api/tickets/" + ticket + "/notes", "{\"toRequester\":true,\"text\":\"Looking\"}"));
        assertThat(lists(runa, ticket, seq)).isEmpty();
        assertThat(lists(mira, ticket, seq)).containsOnly("asked");
    }

    @Test
    void whoeverIsAskedReadsTheDeskAndOthersDoNot() throws Exception {
        BlockingQueue<JsonNode> runa = listen("runa");
        BlockingQueue<JsonNode> halvard = listen("halvard");
        String ticket = raiseGate("ALD-G3");
        long seq = ticket("ada", ticket).get("seq").asLong();
        assertThat(lists(runa, ticket, seq)).contains("desk", "tickets", "runs");
        assertThat(lists(halvard, ticket, seq)).contains("tickets", "runs").doesNotContain("desk");
    }

    @Test
    void howManyAreOpenIsToldByItself() throws Exception {
        BlockingQueue<JsonNode> runa = listen("runa");
        BlockingQueue<JsonNode> mira = listen("mira");
        String ticket = plain("mira");
        Map<String, JsonNode> first = new HashMap<>();
        for (var of : Map.of("runa", runa, "mira", mira).entrySet()) {
            Instant end = Instant.now().plus(Duration.ofSeconds(30));
            while (!first.containsKey(of.getKey()) && Instant.now().isBefore(end)) {
                JsonNode news = of.getValue().poll(1, TimeUnit.SECONDS);
                if (news != null && news.path("ticket").asText().equals(ticket)) {
                    first.put(of.getKey(), news);
                }
            }
        }
        long open = api.call("runa", "GET", "/api/desk", null)
                .body()
                .get("openTickets")
                .asLong();
        assertThat(first.get("runa").at("/counts/openTickets").asLong()).isEqualTo(open);
        assertThat(first.get("mira").has("counts"))
                .as("a requester is told no numbers")
                .isFalse();
    }

    /** Who asked for something before it was another's, and may no longer know of it, looks again and hears no number. */
    @Test
    void whoMayNoLongerKnowOfItIsToldToLookAndNotAtWhat() throws Exception {
        String ticket = plain("mira");
        BlockingQueue<JsonNode> mira = listen("mira");
        seq(api.call("ada", "PUT", "/api/tickets/" + ticket, "{\"fields\":{\"requester\":\"emil\"}}"));
        Instant end = Instant.now().plus(Duration.ofSeconds(30));
        JsonNode news = null;
        while ((news == null || !news.has("lists")) && Instant.now().isBefore(end)) {
            news = mira.poll(1, TimeUnit.SECONDS);
        }
        assertThat(news).isNotNull();
        assertThat(news.get("ticket").asText()).isEmpty();
        assertThat(news.toString()).contains("asked").doesNotContain(ticket);
    }
}
