package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.server.api.Answers.Accepted;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.server.work.CommandService;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Files;
import dastur.store.Tickets;
import io.javalin.http.HandlerType;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Files and pictures as evidence on a ticket (N8). Their bytes are kept once under their SHA-256, which stands on the
 * record. Only types that a browser does not run are taken, pictures and PDF only when their bytes say so too.
 */
final class FilesOfTickets {
    /** 10 MB. */
    private static final int MAX_BYTES = 10_000_000;

    /** How the bytes of a type begin; empty where any text will do. */
    private static final Map<String, List<byte[]>> TYPES = Map.of(
            "image/png", List.of(new byte[] {(byte) 0x89, 'P', 'N', 'G'}),
            "image/jpeg", List.of(new byte[] {(byte) 0xFF, (byte) 0xD8, (byte) 0xFF}),
            "image/gif", List.of(ascii("GIF87a"), ascii("GIF89a")),
            "image/webp", List.of(ascii("RIFF")),
            "application/pdf", List.of(ascii("%PDF-")),
            "application/zip", List.of(new byte[] {'P', 'K', 3, 4}),
            "text/plain", List.of(),
            "text/csv", List.of(),
            "application/json", List.of());

    private final CommandService commands;
    private final Files files;
    private final Tickets tickets;
    private final Sight sight;

    private FilesOfTickets(CommandService commands, Files files, Tickets tickets, Sight sight) {
        this.commands = commands;
        this.files = files;
        this.tickets = tickets;
        this.sight = sight;
    }

    static Stream<Route> of(CommandService commands, Files files, Tickets tickets, Sight sight) {
        FilesOfTickets r = new FilesOfTickets(commands, files, tickets, sight);
        return Stream.of(
                new Route(
                        HandlerType.POST,
                        "/api/tickets/{number}/files",
                        "Attach a file: its bytes are the body, its type the Content-Type",
                        Right.ASK,
                        null,
                        Accepted.class,
                        false,
                        201,
                        List.of("name", "visit", "toRequester"),
                        r::attach),
                Route.get(
                        "/api/tickets/{number}/files/{hash}",
                        Right.SIGNED_IN,
                        "An attached file",
                        String.class,
                        r::file));
    }

    private static byte[] ascii(String text) {
        return text.getBytes(StandardCharsets.US_ASCII);
    }

    private Case visible(Request q) {
        TicketId ticket = q.path("number", TicketId::new);
        return Optional.of(ticket)
                .filter(t -> sight.maySee(q.person(), t))
                .flatMap(t -> tickets.find(t))
                .orElseThrow(() ->
                        Problem.notFound("There is no ticket " + ticket + ".").end());
    }

    private Object attach(Request q) {
        Case c = visible(q);
        String name = q.query("name")
                .map(n -> n.substring(Math.max(n.lastIndexOf('/'), n.lastIndexOf('\\')) + 1))
                .orElseThrow(
                        () -> Problem.invalid("name", "A file needs a name.").end());
        String type = type(q, name);
        byte[] bytes = bytes(q);
        checkType(type, bytes);
        boolean fromRequester = !Right.SEE.of(q.person());
        VisitId visit = q.query("visit")
                .map(v -> TicketRoutes.id("visit", v, VisitId::new))
                .orElse(null);
        String hash = files.keep(bytes);
        boolean attached = false;
        try {
            Outcome outcome = commands.handle(
                    c.id(),
                    q.commandId(),
                    q.actor(),
                    new Command.AttachFile(
                            visit,
                            name,
                            type,
                            bytes.length,
                            hash,
                            fromRequester
                                    || q.query("toRequester")
                                            .filter("true"::equals)
                                            .isPresent()));
            attached = outcome instanceof Outcome.Done;
            return Answers.of(outcome);
        } finally {
            if (!attached) {
                files.dropUnused(hash);
            }
        }
    }

    private static String type(Request q, String name) {
        String given = Optional.ofNullable(q.context().contentType()).orElse("");
        String type = given.split(";", 2)[0].strip().toLowerCase(java.util.Locale.ROOT);
        // Logs come under many names; as plain text they are harmless.
        boolean log = name.matches("(?i).*\\.(log|txt|md|conf)");
        String taken = log ? "text/plain" : type;
        if (!TYPES.containsKey(taken)) {
            throw Problem.invalid(
                            "file",
                            "Files of the type '" + Texts.clip(type, 60)
                                    + "' are not taken. Pictures (PNG, JPEG, GIF, WebP), PDF, plain text, CSV, JSON and ZIP are.")
                    .end();
        }
        return taken;
    }

    private static byte[] bytes(Request q) {
        try (InputStream in = q.context().bodyInputStream()) {
            byte[] bytes = in.readNBytes(MAX_BYTES + 1);
            if (bytes.length > MAX_BYTES) {
                throw Problem.invalid("file", "A file has at most 10 MB. Put a link into a note instead.")
                        .end();
            }
            return bytes;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static void checkType(String type, byte[] bytes) {
        List<byte[]> starts = TYPES.get(type);
        boolean fits = starts.isEmpty()
                || starts.stream()
                        .anyMatch(s -> bytes.length >= s.length && Arrays.equals(s, 0, s.length, bytes, 0, s.length));
        if (!fits) {
            throw Problem.invalid("file", "The file says that it is " + type + ", but its bytes are not.")
                    .end();
        }
    }

    /** Pictures are shown, everything else is saved; nothing of it can run or load anything. */
    private Object file(Request q) {
        Case c = visible(q);
        String hash = q.context().pathParam("hash");
        Case.FileRef file = c.files().stream()
                .filter(f -> f.hash().equals(hash) && TicketViews.maySee(f, q.person()))
                .findFirst()
                .orElseThrow(
                        () -> Problem.notFound("This ticket has no such file.").end());
        byte[] bytes = files.bytes(hash).orElseThrow(() -> Problem.notFound("The file was taken off the record.")
                .end());
        String name = URLEncoder.encode(file.name() == null ? "file" : file.name(), StandardCharsets.UTF_8)
                .replace("+", "%20");
        String how = file.type().startsWith("image/") ? "inline" : "attachment";
        q.context()
                .header("Content-Security-Policy", "default-src 'none'; sandbox")
                .header("Content-Disposition", how + "; filename*=UTF-8''" + name);
        return new WebServer.Bytes(file.type(), bytes);
    }
}
