package dastur.server.http;

import dastur.core.people.Right;
import io.javalin.http.HandlerType;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * One row of the route table.
 *
 * @param right what the caller must have
 * @param body the record that the body is read into; null for none
 * @param answer the record that the answer is written from; null for none
 * @param list whether the answer is a list of it
 * @param query the names of query parameters
 */
public record Route(
        HandlerType method,
        String path,
        String summary,
        Right right,
        @Nullable Class<?> body,
        @Nullable Class<?> answer,
        boolean list,
        int status,
        List<String> query,
        Handler handler) {
    /** Where addresses begin that machines post to: who they are is asked there, and no sign-in counts. */
    public static final String IN = "/in/";

    /** Answers a request; null answers with no content. */
    public interface Handler {
        @Nullable Object handle(Request request);
    }

    public static Route get(
            String path, Right right, String summary, Class<?> answer, Handler handler, String... query) {
        return new Route(HandlerType.GET, path, summary, right, null, answer, false, 200, List.of(query), handler);
    }

    public static Route list(
            String path, Right right, String summary, Class<?> answer, Handler handler, String... query) {
        return new Route(HandlerType.GET, path, summary, right, null, answer, true, 200, List.of(query), handler);
    }

    public static Route post(
            String path,
            Right right,
            String summary,
            @Nullable Class<?> body,
            @Nullable Class<?> answer,
            Handler handler) {
        return new Route(
                HandlerType.POST,
                path,
                summary,
                right,
                body,
                answer,
                false,
                answer == null ? 204 : 200,
                List.of(),
                handler);
    }

    public static Route put(
            String path,
            Right right,
            String summary,
            @Nullable Class<?> body,
            @Nullable Class<?> answer,
            Handler handler) {
        return new Route(
                HandlerType.PUT,
                path,
                summary,
                right,
                body,
                answer,
                false,
                answer == null ? 204 : 200,
                List.of(),
                handler);
    }

    public static Route delete(String path, Right right, String summary, Handler handler) {
        return new Route(HandlerType.DELETE, path, summary, right, null, null, false, 204, List.of(), handler);
    }

    public Route created() {
        return new Route(method, path, summary, right, body, answer, list, 201, query, handler);
    }

    /** Answers that something is taken, and looked at later. */
    public Route accepted() {
        return new Route(method, path, summary, right, body, answer, list, 202, query, handler);
    }

    /** Whether people call it: whoever is signed in, or by their token. */
    boolean ofPeople() {
        return !path.startsWith(IN);
    }
}
