package dastur.standins;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.UnaryOperator;

/**
 * The ticket desk of a supplier, with words of its own for all that ours has too. It lists what was touched in sheets, takes faults,
 * changes and words, and has a clock of its own. The control page answers as the supplier.
 */
public final class PartnerDesk {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final List<String> GRADES = List.of("A", "B", "C", "D");

    /** Something said on a fault. @param mark of whoever sent it from elsewhere */
    public record Word(int nr, String who, String said, String mark) {}

    /**
     * A fault, as they call all that is asked of them.
     *
     * @param no its number there
     * @param yours the number of whoever raised it from elsewhere; blank for their own
     * @param grade A is the worst, D the least
     * @param stage logged, looking, parts, right or shut
     * @param outcome what came of it; blank for nothing yet
     * @param wants what their own ask for: blank or {@code machine}
     */
    public record Fault(
            String no,
            String yours,
            String head,
            String body,
            String grade,
            String stage,
            String outcome,
            String wants,
            String size,
            List<Word> words,
            Instant touched) {
        Fault renumbered(String other) {
            return new Fault(other, yours, head, body, grade, stage, outcome, wants, size, words, touched);
        }

        Fault graded(String other) {
            return new Fault(no, yours, head, body, other, stage, outcome, wants, size, words, touched);
        }

        Fault at(String other) {
            return new Fault(no, yours, head, body, grade, other, outcome, wants, size, words, touched);
        }

        Fault with(String other) {
            return new Fault(no, yours, head, body, grade, stage, other, wants, size, words, touched);
        }

        Fault saying(Word word) {
            List<Word> all = new ArrayList<>(words);
            all.add(word);
            return new Fault(no, yours, head, body, grade, stage, outcome, wants, size, List.copyOf(all), touched);
        }

        Fault touchedAt(Instant at) {
            return new Fault(no, yours, head, body, grade, stage, outcome, wants, size, words, at);
        }
    }

    private final String token;
    private final Faults faults;
    private final Map<String, Fault> all = new TreeMap<>();
    private final Map<String, String> keys = new LinkedHashMap<>();
    private final AtomicInteger next = new AtomicInteger(501);
    private volatile int aSheet = 20;
    private volatile boolean takesLessSeriously;
    private volatile boolean holdsToGrade;
    private volatile boolean forgetsKeys;
    private volatile int oneAnswers = 200;
    private volatile boolean mixesUp;
    private final AtomicInteger askedForOne = new AtomicInteger();
    private volatile Duration clock = Duration.ZERO;

    PartnerDesk(String token, Faults faults) {
        this.token = token;
        this.faults = faults;
        stood("F-412", "Lane 7 opens late", "The arm of lane 7 waits two seconds.", "B", "looking", 20);
        stood("F-431", "Card reader of lane 2 hums", "It reads, but it hums.", "D", "parts", 12);
        stood("F-440", "Lamp of lane 4 is dark", "The green lamp stays dark.", "C", "shut", 10);
        stood("F-455", "Gate motor runs hot", "The motor of the long gate is hot after an hour.", "C", "logged", 6);
        stood("F-460", "Display shows yesterday", "The date of the display is a day late.", "D", "on the bench", 3);
        all.computeIfPresent("F-412", (no, f) -> f.saying(new Word(1, "Supplier", "A new board is ordered.", "")));
    }

    /** One that was there before anybody was joined to it. @param days since when it was not touched */
    public synchronized void stood(String no, String head, String body, String grade, String stage, int days) {
        Instant touched = Instant.now().minus(Duration.ofDays(days));
        put(new Fault(no, "", head, body, grade, stage, "", "", "", List.of(), touched));
    }

    /** How many stand in one sheet of the list. */
    public void sheetsOf(int many) {
        aSheet = many;
    }

    void routes(JavalinConfig config) {
        config.routes.get("/partner/faults", this::list);
        config.routes.get("/partner/faults/{no}", this::one);
        config.routes.post("/partner/faults", this::raise);
        config.routes.patch("/partner/faults/{no}", this::change);
        config.routes.post("/partner/faults/{no}/words", this::say);
    }

    private boolean shut(Context ctx) {
        return !Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("partner"));
    }

    private Instant now() {
        return Instant.now().plus(clock);
    }

    private synchronized void list(Context ctx) {
        if (shut(ctx)) {
            return;
        }
        String after = ctx.queryParam("touched_after");
        Instant since = after == null || after.isBlank() ? Instant.EPOCH : Instant.parse(after);
        String sheet = ctx.queryParam("sheet");
        int from = sheet == null || sheet.isBlank() ? 0 : Integer.parseInt(sheet) * aSheet;
        List<Fault> touched = all.values().stream()
                .filter(f -> f.touched().isAfter(since))
                .sorted(Comparator.comparing(Fault::touched))
                .toList();
        int upto = Math.min(touched.size(), from + aSheet);
        Map<String, Object> answer = new LinkedHashMap<>();
        answer.put(
                "faults",
                touched.subList(Math.min(from, upto), upto).stream()
                        .map(PartnerDesk::shown)
                        .toList());
        answer.put("sheet_after", upto < touched.size() ? String.valueOf(upto / aSheet) : "");
        answer.put("our_time", now().toString());
        ctx.json(answer);
    }

    private synchronized void one(Context ctx) {
        askedForOne.incrementAndGet();
        if (oneAnswers != 200) {
            ctx.status(oneAnswers).json(Map.of("why", "ask later"));
            return;
        }
        Fault fault = shut(ctx) ? null : found(ctx);
        if (fault != null) {
            ctx.json(Map.of("fault_sheet", shown(mixesUp ? fault.renumbered("F-0") : fault)));
        }
    }

    private static Map<String, Object> shown(Fault f) {
        Map<String, Object> shown = new LinkedHashMap<>();
        shown.put("no", f.no());
        shown.put("your_no", f.yours());
        shown.put("fault", Map.of("head", f.head(), "body", f.body(), "grade", f.grade()));
        shown.put("stage", f.stage());
        shown.put("outcome", f.outcome());
        shown.put("wants", f.wants());
        shown.put("size", f.size());
        shown.put("touched_at", f.touched().toString());
        shown.put("read_at", "http://supplier.example/faults/" + f.no());
        shown.put(
                "words",
                f.words().stream()
                        .map(w -> Map.of("nr", w.nr(), "who", w.who(), "said", w.said(), "your_mark", w.mark()))
                        .toList());
        return shown;
    }

    private synchronized void raise(Context ctx) {
        if (shut(ctx)) {
            return;
        }
        JsonNode asked = read(ctx);
        String key = ctx.header("Idempotency-Key");
        String no = key == null ? null : keys.get(key);
        if (no == null) {
            String grade = asked.path("grade").asText("C");
            int lower = Math.min(3, Math.max(0, GRADES.indexOf(grade)) + (takesLessSeriously ? 1 : 0));
            no = put(new Fault(
                    "F-" + next.getAndIncrement(),
                    asked.path("your_no").asText(""),
                    asked.path("head").asText("?"),
                    asked.path("body").asText(""),
                    GRADES.get(lower),
                    "logged",
                    "",
                    "",
                    "",
                    List.of(),
                    now()));
            keys.put(key == null ? "none-" + no : key, no);
        }
        if (faults.of("partner") == Faults.Fault.LOSES_ANSWERS) {
            Guarded.lose(ctx);
            return;
        }
        ctx.status(201).json(Map.of("no", no, "grade", all.get(no).grade()));
    }

    private String put(Fault fault) {
        all.put(fault.no(), fault);
        return fault.no();
    }

    private synchronized void change(Context ctx) {
        Fault fault = shut(ctx) ? null : found(ctx);
        if (fault == null) {
            return;
        }
        JsonNode asked = read(ctx);
        String grade = asked.path("grade").asText("");
        if (holdsToGrade && !grade.isEmpty() && !grade.equals(fault.grade())) {
            ctx.status(422).json(Map.of("why", "we hold to grade " + fault.grade()));
            return;
        }
        String stage = asked.path("stage").asText("");
        String outcome = asked.path("outcome").asText("");
        Fault after = grade.isEmpty() ? fault : fault.graded(grade);
        after = stage.isEmpty() ? after : after.at(stage);
        after = outcome.isEmpty() ? after : after.with(outcome);
        if (!after.equals(fault)) {
            put(after.touchedAt(now()));
        }
        ctx.json(Map.of("no", fault.no()));
    }

    private synchronized void say(Context ctx) {
        Fault fault = shut(ctx) ? null : found(ctx);
        if (fault == null) {
            return;
        }
        JsonNode asked = read(ctx);
        String key = ctx.header("Idempotency-Key");
        if (key == null || forgetsKeys || keys.putIfAbsent(key, fault.no()) == null) {
            say(
                    fault.no(),
                    asked.path("who").asText("?"),
                    asked.path("said").asText(""),
                    asked.path("your_mark").asText(""));
        }
        if (faults.of("partner") == Faults.Fault.LOSES_ANSWERS) {
            Guarded.lose(ctx);
            return;
        }
        ctx.status(201).json(Map.of("no", fault.no()));
    }

    private Fault found(Context ctx) {
        Fault fault = all.get(ctx.pathParam("no"));
        if (fault == null) {
            ctx.status(404).json(Map.of("why", "no such fault"));
        }
        return fault;
    }

    private synchronized void touch(String no, UnaryOperator<Fault> how) {
        all.computeIfPresent(no, (n, f) -> how.apply(f).touchedAt(now()));
    }

    // --- what the supplier does

    /** They say something. @param mark blank for their own words */
    public void say(String no, String who, String said, String mark) {
        touch(no, f -> f.saying(new Word(f.words().size() + 1, who, said, mark)));
    }

    /** They have come to a stage: logged, looking, parts, right or shut, or a word that nobody else knows. */
    public void reach(String no, String stage) {
        touch(no, f -> f.at(stage));
    }

    /** They take it more or less seriously than before. */
    public void grade(String no, String grade) {
        touch(no, f -> f.graded(grade));
    }

    /** They take it out of their desk, as if it had never been. @return as it was */
    public synchronized Fault drop(String no) {
        return all.remove(no);
    }

    /** They put one back as it was. */
    public synchronized void putBack(Fault fault) {
        put(fault.touchedAt(now()));
    }

    /** They say what came of it. @param at when, by their clock */
    public synchronized void outcome(String no, String outcome, Instant at) {
        all.computeIfPresent(no, (n, f) -> f.with(outcome).touchedAt(at));
    }

    /** They have put it right. */
    public void solve(String no, String outcome) {
        touch(no, f -> f.with(outcome).at("right"));
    }

    /** They raise something of their own. @param wants blank for a fault, or {@code machine} @return its number */
    public synchronized String raiseOwn(String head, String body, String grade, String wants, String size) {
        return put(new Fault(
                "F-" + next.getAndIncrement(), "", head, body, grade, "logged", "", wants, size, List.of(), now()));
    }

    /** They name a number of ours on one of theirs, rightly or not. */
    public void name(String no, String yours) {
        touch(
                no,
                f -> new Fault(
                        f.no(),
                        yours,
                        f.head(),
                        f.body(),
                        f.grade(),
                        f.stage(),
                        f.outcome(),
                        f.wants(),
                        f.size(),
                        f.words(),
                        f.touched()));
    }

    /** Whether they take new ones one grade less seriously than we do. */
    public void takeLessSeriously(boolean less) {
        takesLessSeriously = less;
    }

    public boolean takesLessSeriously() {
        return takesLessSeriously;
    }

    /** Whether they refuse to change a grade. */
    public void holdToGrade(boolean hold) {
        holdsToGrade = hold;
    }

    public boolean holdsToGrade() {
        return holdsToGrade;
    }

    /** Whether they do what is said to them as often as it is said, whatever its key. */
    public void forgetKeys(boolean forget) {
        forgetsKeys = forget;
    }

    /** With which status they answer whoever asks for a single one, whatever there is; 200 for as it is. */
    public void answerForOne(int status) {
        oneAnswers = status;
    }

    /** Whether they answer with another when they are asked for one. */
    public void mixUp(boolean mix) {
        mixesUp = mix;
    }

    /** How often a single one was asked for. */
    public int askedForOne() {
        return askedForOne.get();
    }

    /** How far their clock is off. */
    public void clockIsOff(Duration by) {
        clock = by;
    }

    /** All of theirs, the newest first. */
    public synchronized List<Fault> faults() {
        return all.values().stream()
                .sorted(Comparator.comparing(Fault::no).reversed())
                .toList();
    }

    /** One of theirs. */
    public synchronized Fault fault(String no) {
        return all.get(no);
    }

    private static JsonNode read(Context ctx) {
        try {
            return JSON.readTree(ctx.body());
        } catch (IOException e) {
            throw new IllegalArgumentException(e);
        }
    }
}
