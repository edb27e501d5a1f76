package dastur.connectors;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.connectors.Connector.Heartbeat;
import dastur.core.json.Texts;
import dastur.core.workflow.Action;
import java.io.IOException;
import java.net.URI;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;

/** An answer that comes in pages (M10). */
final class HttpPages {
    private static final long MOST_OF_PAGES = 5_000_000;

    private HttpPages() {}

    /** Asks for all further pages, and puts their lists together in the place of the first. */
    static JsonNode whole(HttpExchange exchange, Action.Pages pages, JsonNode first, Heartbeat heartbeat)
            throws IOException, InterruptedException, Definite, Doubtful, HttpConnector.JobFailed, Connector.Abandoned {
        ArrayNode all = items(pages, first).deepCopy();
        Set<URI> asked = new HashSet<>();
        JsonNode page = first;
        int count = 1;
        for (Optional<URI> next = exchange.next(pages, page); next.isPresent(); next = exchange.next(pages, page)) {
            if (!heartbeat.stillMine()) {
                throw new Connector.Abandoned();
            }
            if (count == pages.most() || !asked.add(next.get())) {
                throw new HttpConnector.JobFailed(
                        count == pages.most()
                                ? "The answer has more than " + pages.most() + " pages."
                                : "Its pages go round in a circle: one leads to a page that was asked for before.");
            }
            if (!heartbeat.mayAsk(next.get())) {
                throw new HttpConnector.JobFailed("It is not allowed to ask for the page at "
                        + Texts.clip(next.get().getPath(), 120) + ".");
            }
            page = exchange.send("GET", next.get(), null);
            all.addAll(items(pages, page));
            count++;
            if (exchange.read > MOST_OF_PAGES) {
                throw new HttpConnector.JobFailed("Its pages are longer than " + MOST_OF_PAGES + " bytes together.");
            }
        }
        ((ObjectNode) first.at(pages.itemsAt().substring(0, pages.itemsAt().lastIndexOf('/'))))
                .set(name(pages.itemsAt()), all);
        return first;
    }

    /** The last part of a JSON Pointer (RFC 6901). */
    private static String name(String pointer) {
        return pointer.substring(pointer.lastIndexOf('/') + 1)
                .replace("~1", "/")
                .replace("~0", "~");
    }

    private static ArrayNode items(Action.Pages pages, JsonNode page) throws HttpConnector.JobFailed {
        boolean inObject = page.at(pages.itemsAt().substring(0, pages.itemsAt().lastIndexOf('/')))
                .isObject();
        if (inObject && page.at(pages.itemsAt()) instanceof ArrayNode items) {
            return items;
        }
        throw new HttpConnector.JobFailed("A page has no list at " + pages.itemsAt() + ".");
    }
}
