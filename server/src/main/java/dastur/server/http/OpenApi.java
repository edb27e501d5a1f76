package dastur.server.http;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** The OpenAPI 3.1 description of a route table. */
public final class OpenApi {
    private static final Pattern PARAMETER = Pattern.compile("\\{([a-z]+)}");

    private OpenApi() {}

    public static ObjectNode describe(List<Route> routes) {
        Schemas schemas = new Schemas();
        ObjectNode api = Json.mapper().createObjectNode();
        api.put("openapi", "3.1.0");
        api.putObject("info")
                .put("title", "Dastur")
                .put("version", "1")
                .put("description", "Tickets, workflows and their sealed record.");
        ObjectNode paths = api.putObject("paths");
        for (Route route : routes) {
            ObjectNode path =
                    paths.has(route.path()) ? (ObjectNode) paths.get(route.path()) : paths.putObject(route.path());
            path.set(route.method().name().toLowerCase(java.util.Locale.ROOT), operation(route, schemas));
        }
        schemas.of(Problem.class);
        api.putObject("components").set("schemas", schemas.components());
        return api;
    }

    private static ObjectNode operation(Route route, Schemas schemas) {
        ObjectNode operation = Json.mapper().createObjectNode();
        operation.put("summary", route.summary());
        operation.put(
                "description",
                "Needs the right: "
                        + route.right()
                                .name()
                                .toLowerCase(java.util.Locale.ROOT)
                                .replace('_', ' ') + ".");
        Matcher m = PARAMETER.matcher(route.path());
        while (m.find()) {
            parameter(operation, m.group(1), "path", true);
        }
        route.query().forEach(name -> parameter(operation, name, "query", false));
        if (route.body() != null) {
            ObjectNode body = operation.putObject("requestBody").put("required", true);
            body.putObject("content").putObject("application/json").set("schema", schemas.of(route.body()));
        }
        ObjectNode responses = operation.putObject("responses");
        ObjectNode ok = responses.putObject(String.valueOf(route.status())).put("description", "Done");
        if (route.answer() != null) {
            ObjectNode schema = schemas.of(route.answer());
            ok.putObject("content")
                    .putObject("application/json")
                    .set(
                            "schema",
                            route.list()
                                    ? Json.mapper()
                                            .createObjectNode()
                                            .put("type", "array")
                                            .set("items", schema)
                                    : schema);
        }
        ObjectNode problem = responses.putObject("default").put("description", "A problem (RFC 9457)");
        problem.putObject("content").putObject("application/problem+json").set("schema", schemas.of(Problem.class));
        return operation;
    }

    private static void parameter(ObjectNode operation, String name, String in, boolean required) {
        ObjectNode parameter = operation.withArray("parameters").addObject();
        parameter.put("name", name).put("in", in).put("required", required);
        parameter.putObject("schema").put("type", "string");
    }
}
