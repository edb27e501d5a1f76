package dastur.server.http;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.server.auth.Secrets;
import dastur.server.work.Live;
import dastur.store.Altered;
import dastur.store.Busy;
import dastur.store.Cases;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.Sessions;
import io.javalin.Javalin;
import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import io.javalin.http.Cookie;
import io.javalin.http.HandlerType;
import io.javalin.http.HttpResponseException;
import io.javalin.http.SameSite;
import io.javalin.http.sse.SseClient;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.stream.Stream;
import org.eclipse.jetty.server.Server;
import org.eclipse.jetty.server.ServerConnector;
import org.eclipse.jetty.util.component.LifeCycle;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Serves the route table, the live news and the web application, each behind its right. */
public final class WebServer implements AutoCloseable {
    /** The cookie that carries a sign-in. */
    public static final String COOKIE = "dastur_session";

    private static final Logger LOG = LoggerFactory.getLogger(WebServer.class);
    private static final long MAX_BODY = 1_000_000;
    private static final long NEWS_EVERY_MILLIS = 15_000;
    /** How many connections may wait to be taken up; the operating system may allow fewer. */
    private static final int LINE = 1_024;

    /**
     * What the server needs.
     *
     * @param reader a person as they hear of changes
     * @param proxies addresses of proxies whose word about who calls is believed
     */
    public record Uses(
            Sessions sessions,
            Organisation organisation,
            InstantSource clock,
            Live live,
            Function<Person, Live.Reader> reader,
            Set<String> proxies) {}

    private final Uses means;
    private final List<Route> routes;
    private final Javalin javalin;
    private final Set<SseClient> streams = ConcurrentHashMap.newKeySet();
    private volatile boolean stopping;

    public WebServer(Uses means, List<Route> routes) {
        this.means = means;
        this.routes = List.copyOf(routes);
        String description = OpenApi.describe(routes).toString();
        this.javalin = Javalin.create(config -> {
            config.startup.showJavalinBanner = false;
            config.concurrency.useVirtualThreads = true;
            config.http.maxRequestSize = MAX_BODY;
            config.jetty.modifyServer(WebServer::letWait);
            config.http.defaultContentType = "application/json";
            config.routes.before(ctx -> Callers.note(ctx, means.proxies()));
            config.routes.before(WebServer::headers);
            this.routes.forEach(route -> register(config, route));
            config.routes.get("/api/openapi.json", ctx -> ctx.contentType("application/json")
                    .result(description));
            config.routes.sse("/api/live", this::live);
            config.routes.get("/assets/*", WebServer::asset);
            config.routes.get("/*", WebServer::page);
            problems(config);
        });
    }

    /** A rush finds a place in the line and an answer in words, where the fifty of the platform would break connections. */
    private static void letWait(Server server) {
        server.addEventListener(new LifeCycle.Listener() {
            @Override
            public void lifeCycleStarting(LifeCycle starting) {
                Stream.of(server.getConnectors())
                        .filter(ServerConnector.class::isInstance)
                        .map(ServerConnector.class::cast)
                        .forEach(c -> c.setAcceptQueueSize(LINE));
            }
        });
    }

    public void start(String host, int port) {
        javalin.start(host, port);
    }

    public int port() {
        return javalin.port();
    }

    // --- routes

    private void register(JavalinConfig config, Route route) {
        config.routes.addHttpHandler(route.method(), route.path(), ctx -> serve(route, ctx));
    }

    private void serve(Route route, Context ctx) {
        boolean nul = ctx.pathParamMap().values().stream().anyMatch(v -> v.indexOf(0) >= 0)
                || ctx.queryParamMap().values().stream().flatMap(List::stream).anyMatch(v -> v.indexOf(0) >= 0);
        if (nul) {
            throw Problem.malformed(null, "The address holds the character U+0000, which nothing here is called by.")
                    .end();
        }
        ctx.queryParamMap().keySet().stream()
                .filter(name -> !route.query().contains(name))
                .findFirst()
                .ifPresent(name -> refuse(name, route));
        Optional<Caller> caller =
                route.ofPeople() ? whoIs(Credentials.of(ctx), route.method() != HandlerType.GET) : Optional.empty();
        Optional<Person> person = caller.map(Caller::person);
        if (route.right() != Right.ANYBODY) {
            Person known = person.orElseThrow(() -> Problem.notSignedIn().end());
            if (!route.right().of(known)) {
                throw Problem.noRight("This needs the right to "
                                + route.right()
                                        .name()
                                        .toLowerCase(java.util.Locale.ROOT)
                                        .replace('_', ' ') + ", which your roles do not give.")
                        .end();
            }
        }
        Object answer = route.handler()
                .handle(new Request(
                        ctx, person.orElse(null), caller.map(Caller::natural).orElse(null)));
        ctx.header("Cache-Control", "no-store");
        if (answer instanceof Raw raw) {
            ctx.contentType(raw.type()).result(raw.text());
        } else if (answer instanceof Bytes bytes) {
            ctx.contentType(bytes.type()).result(bytes.bytes());
        } else if (answer instanceof Tagged tagged) {
            ctx.header("ETag", tagged.tag());
            if (tagged.isAmong(ctx.header("If-None-Match"))) {
                ctx.status(304);
            } else {
                ctx.contentType("application/json").result(tagged.json());
            }
        } else if (answer instanceof Done done) {
            ctx.status(200).contentType("application/json").result(Json.write(done.body()));
        } else if (answer == null) {
            ctx.status(204);
        } else {
            ctx.status(route.status()).contentType("application/json").result(Json.write(answer));
        }
    }

    /** Somebody who narrows a list down by what is not known would else take the whole for the part. */
    private static void refuse(String name, Route route) {
        throw Problem.malformed(
                        Texts.clip(name, 40),
                        "There is no parameter '" + Texts.clip(name, 40) + "' here. "
                                + (route.query().isEmpty()
                                        ? "This address takes none."
                                        : "Known are: " + String.join(", ", route.query()) + "."))
                .end();
    }

    /** An answer of plain bytes. */
    public record Bytes(String type, byte[] bytes) {}

    /** An answer that is not JSON of a record. */
    public record Raw(String type, String text) {}

    /** @param natural who really asks, where they act as the person because that one said so; else null */
    private record Caller(Person person, @Nullable PersonId natural) {}

    /** What a request brings to say whose it is; read once, since a stream outlives what it was asked with. */
    private record Credentials(
            @Nullable String bearer,
            @Nullable String cookie,
            @Nullable String csrf,
            String path) {
        static Credentials of(Context ctx) {
            return new Credentials(
                    ctx.header("Authorization"), ctx.cookie(COOKIE), ctx.header("X-CSRF-Token"), ctx.path());
        }
    }

    /** The person behind a token or a sign-in. A change made by cookie needs the sign-in's CSRF token. */
    private Optional<Caller> whoIs(Credentials given, boolean changes) {
        String bearer = given.bearer();
        if (bearer != null) {
            Optional<Sessions.TokenOf> token = bearer.startsWith("Bearer ")
                    ? means.sessions()
                            .token(
                                    Secrets.hashToken(bearer.substring(7).strip()),
                                    means.clock().instant())
                    : Optional.empty();
            Person person = token.map(Sessions.TokenOf::person)
                    .flatMap(means.organisation()::person)
                    .filter(Person::active)
                    .orElseThrow(() -> Problem.notSignedIn().end());
            if (changes && token.get().scope() == Sessions.Scope.READ) {
                throw Problem.noRight("This token is for reading only.").end();
            }
            return Optional.of(new Caller(person, null));
        }
        String cookie = given.cookie();
        if (cookie == null) {
            return Optional.empty();
        }
        Optional<Sessions.Session> session =
                means.sessions().find(Secrets.hashToken(cookie), means.clock().instant());
        if (session.isPresent() && changes) {
            String csrf = given.csrf();
            if (csrf == null || !Secrets.same(csrf, session.get().csrf())) {
                throw Problem.noRight("The request lacks the CSRF token of this sign-in. Load the page again.")
                        .end();
            }
        }
        Optional<Person> signedIn = session.map(Sessions.Session::person)
                .flatMap(means.organisation()::person)
                .filter(Person::active);
        PersonId seesAs = session.map(Sessions.Session::seesAs).orElse(null);
        if (seesAs == null || signedIn.isEmpty()) {
            return signedIn.map(p -> new Caller(p, null));
        }
        PersonId natural = signedIn.get().id();
        boolean acts = means.sessions().mayActAs(natural, seesAs, means.clock().instant());
        if (changes && !given.path().startsWith("/api/session") && !(acts && isWork(given.path()))) {
            throw Problem.noRight(
                            acts
                                    ? "As somebody else you may work on tickets, and change nothing besides."
                                    : "You are looking as somebody else, and may not change anything meanwhile.")
                    .end();
        }
        return signedIn.filter(Right.ADMINISTER::of)
                .flatMap(p -> means.organisation().person(seesAs))
                .map(p -> new Caller(p, acts ? natural : null));
    }

    /** What somebody may do as another who said so: work on tickets, which lands on their records with both names. */
    private static boolean isWork(String path) {
        return Stream.of("tickets", "tasks", "approvals", "reviews", "call-ins", "late-results")
                .anyMatch(w -> path.equals("/api/" + w) || path.startsWith("/api/" + w + "/"));
    }

    /** Sets the sign-in's cookie: not readable by scripts, not sent along from other sites. */
    public static void setCookie(Context ctx, String token, int seconds) {
        ctx.cookie(new Cookie(COOKIE, token, "/", seconds, Callers.bySecureLine(ctx), true, null, SameSite.STRICT));
    }

    // --- live

    private void live(SseClient client) {
        Credentials given = Credentials.of(client.ctx());
        Optional<Person> known = stillThere(given);
        if (known.isEmpty()) {
            client.ctx().status(401);
            client.close();
            return;
        }
        Person person = known.get();
        Live.Listener listener = means.live().open(means.reader().apply(person));
        client.keepAlive();
        streams.add(client);
        client.onClose(() -> {
            streams.remove(client);
            means.live().close(listener);
        });
        Thread.ofVirtual().start(() -> tell(client, listener, given, person));
    }

    /** Who is behind a stream; empty once the sign-in or token is over, or the account is shut. */
    private Optional<Person> stillThere(Credentials given) {
        try {
            return whoIs(given, false).map(Caller::person);
        } catch (Problem.Ended e) {
            return Optional.empty();
        }
    }

    /** A stream ends with the sign-in, token or account behind it; whoever sees less than before opens another. */
    private void tell(SseClient client, Live.Listener listener, Credentials given, Person person) {
        try {
            client.sendEvent("hello", "{}");
            while (!client.terminated() && !stopping) {
                Live.News news = listener.next(NEWS_EVERY_MILLIS);
                if (stopping) {
                    // The database may be closed already.
                    return;
                }
                boolean look = news == null || news.isWhoIsThere();
                if (look && stillThere(given).filter(person::equals).isEmpty()) {
                    return;
                }
                if (news == null) {
                    client.sendComment("still here");
                } else if (!news.isWhoIsThere()) {
                    client.sendEvent("changed", Json.write(news));
                }
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            means.live().close(listener);
            if (streams.remove(client)) {
                client.close();
            }
        }
    }

    // --- the web application

    private static void asset(Context ctx) {
        String path = ctx.path();
        if (path.contains("..")) {
            throw Problem.notFound("There is no such file.").end();
        }
        try (InputStream in = WebServer.class.getResourceAsStream("/web" + path)) {
            if (in == null) {
                throw Problem.notFound("There is no such file.").end();
            }
            ctx.header("Cache-Control", "public, max-age=31536000, immutable");
            ctx.contentType(type(path)).result(in.readAllBytes());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static String type(String path) {
        return switch (path.substring(path.lastIndexOf('.') + 1)) {
            case "js" -> "text/javascript";
            case "css" -> "text/css";
            case "woff2" -> "font/woff2";
            case "woff" -> "font/woff";
            case "svg" -> "image/svg+xml";
            case "png" -> "image/png";
            default -> "application/octet-stream";
        };
    }

    private static void page(Context ctx) {
        if (ctx.path().startsWith("/api/")) {
            throw Problem.notFound("There is no " + ctx.path() + ". The API is described at /api/openapi.json.")
                    .end();
        }
        try (InputStream in = WebServer.class.getResourceAsStream("/web/index.html")) {
            if (in == null) {
                ctx.status(503)
                        .contentType("text/plain")
                        .result("The web application was not built. Run ./dastur build.");
                return;
            }
            String nonce = Secrets.newToken();
            ctx.header("Content-Security-Policy", policy(nonce));
            ctx.header("Cache-Control", "no-store");
            ctx.contentType("text/html; charset=utf-8")
                    .result(new String(in.readAllBytes(), StandardCharsets.UTF_8).replace("__NONCE__", nonce));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static String policy(@Nullable String nonce) {
        String styles = nonce == null
                ? ""
                : "; style-src 'self' 'nonce-" + nonce
                        + "'; script-src 'self'; connect-src 'self'; font-src 'self'; img-src 'self' data:";
        return "default-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'" + styles;
    }

    private static void headers(Context ctx) {
        ctx.header("Content-Security-Policy", policy(null));
        if (Callers.bySecureLine(ctx)) {
            ctx.header("Strict-Transport-Security", "max-age=31536000");
        }
        ctx.header("X-Content-Type-Options", "nosniff");
        ctx.header("X-Frame-Options", "DENY");
        ctx.header("Referrer-Policy", "same-origin");
        ctx.header("Cross-Origin-Opener-Policy", "same-origin");
        ctx.header("Permissions-Policy", "camera=(), microphone=(), geolocation=()");
    }

    // --- problems: the one place where failure becomes an answer

    private static void problems(JavalinConfig config) {
        config.routes.exception(Problem.Ended.class, (e, ctx) -> answer(ctx, e.problem()));
        config.routes.exception(HttpResponseException.class, (e, ctx) -> answer(ctx, ofStatus(e.getStatus())));
        config.routes.exception(Busy.class, (e, ctx) -> answer(ctx, Problem.writing()));
        config.routes.exception(Altered.class, (e, ctx) -> {
            LOG.error("{}", e.getMessage());
            answer(ctx, Problem.conflict(e.getMessage()));
        });
        config.routes.exception(Cases.Contended.class, (e, ctx) -> answer(ctx, Problem.conflict(e.getMessage())));
        config.routes.exception(Exception.class, (e, ctx) -> {
            String what = ctx.endpoint() == null ? "?" : ctx.endpoint().path;
            if (Database.isUnreachable(e)) {
                LOG.warn(
                        "{} {} was not answered: the database cannot be reached: {}",
                        ctx.method(),
                        what,
                        e.getMessage());
                answer(ctx, Problem.unreachable());
                return;
            }
            if (isGone(e)) {
                LOG.debug("whoever asked for {} {} is gone", ctx.method(), what);
                return;
            }
            LOG.error("a request failed: {} {}", ctx.method(), what, e);
            answer(ctx, Problem.bug());
        });
        config.routes.error(404, ctx -> {
            if (ctx.result() == null || ctx.result().isBlank()) {
                answer(ctx, Problem.notFound("There is no " + ctx.method() + " " + ctx.path() + "."));
            }
        });
    }

    /** Whether the connection broke; that is nobody's fault here, and four hundred of them are no news. */
    private static boolean isGone(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            String said = String.valueOf(cause.getMessage());
            if (cause instanceof java.io.EOFException
                    || cause instanceof java.nio.channels.ClosedChannelException
                    || cause instanceof IOException
                            && (said.contains("Broken pipe") || said.contains("Connection reset"))) {
                return true;
            }
        }
        return false;
    }

    private static Problem ofStatus(int status) {
        return switch (status) {
            case 413 -> Problem.tooLarge(MAX_BODY);
            case 404, 405 ->
                Problem.notFound("There is nothing here for that method. The API is described at /api/openapi.json.");
            default -> status < 500 ? Problem.malformed(null, "The request cannot be read.") : Problem.bug();
        };
    }

    private static void answer(Context ctx, Problem problem) {
        ctx.status(problem.status()).contentType("application/problem+json").result(write(problem));
        if (problem.status() == 429) {
            ctx.header("Retry-After", problem.type().endsWith(":too-fast") ? "1" : "60");
        } else if (problem.status() == 503) {
            ctx.header("Retry-After", "5");
        }
    }

    private static String write(Problem problem) {
        try {
            return Json.mapper().writeValueAsString(problem);
        } catch (JsonProcessingException e) {
            return "{}";
        }
    }

    @Override
    public void close() {
        stopping = true;
        // Streams end before the server does: afterwards their responses no longer exist.
        Set.copyOf(streams).forEach(stream -> {
            if (streams.remove(stream)) {
                stream.close();
            }
        });
        javalin.stop();
    }
}
