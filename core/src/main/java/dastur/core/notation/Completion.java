package dastur.core.notation;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** What could come next in a sentence that is being typed. */
final class Completion {
    private static final int MOST = 8;
    private static final Pattern LAST_WORD = Pattern.compile("[A-Za-z][A-Za-z0-9_.]*$");
    private static final List<String> EXPRESSIONS = List.of("if ", "wait until ", "wait for ", "repeat until ", "set ");

    private final Names names;

    Completion(Names names) {
        this.names = names;
    }

    /** The whole sentence as it would stand after each offer. */
    List<String> of(String typed) {
        String text = typed.stripLeading();
        List<String> offers = new ArrayList<>();
        if (!text.contains(" ") || SentenceReader.HEADS.stream().noneMatch(h -> text.startsWith(h + " "))) {
            SentenceReader.HEADS.stream()
                    .filter(h -> h.startsWith(text.toLowerCase(Locale.ROOT)) && !h.equals(text))
                    .map(h -> h + " ")
                    .forEach(offers::add);
        }
        named(text, "ask ", names.parties(), " \"").forEach(offers::add);
        named(text, "tell ", names.parties(), " \"").forEach(offers::add);
        named(text, "run ", names.actions(), " ").forEach(offers::add);
        named(text, "measure ", names.actions(), " ").forEach(offers::add);
        named(text, "call in by ", names.ladders(), " \"").forEach(offers::add);
        named(text, "call ", names.workflows(), " ").forEach(offers::add);
        approvers(text).forEach(offers::add);
        paths(text).forEach(offers::add);
        return offers.stream().distinct().limit(MOST).toList();
    }

    private static Stream<String> named(String text, String head, Map<String, String> known, String then) {
        if (!text.startsWith(head) || text.contains("\"")) {
            return Stream.empty();
        }
        String part = text.substring(head.length());
        return matching(known, part).map(name -> head + name + then);
    }

    private static Stream<String> matching(Map<String, String> known, String part) {
        String typed = part.toLowerCase(Locale.ROOT);
        return known.entrySet().stream()
                .filter(e -> e.getKey().toLowerCase(Locale.ROOT).startsWith(typed)
                        || e.getValue().toLowerCase(Locale.ROOT).startsWith(typed))
                .map(e -> e.getValue().toLowerCase(Locale.ROOT).startsWith(typed) ? e.getValue() : e.getKey())
                .filter(name -> !name.equalsIgnoreCase(part))
                .sorted();
    }

    private Stream<String> approvers(String text) {
        int by = text.indexOf(" by ");
        if (!text.startsWith("approve") || by < 0) {
            return Stream.empty();
        }
        String before = text.substring(0, by + 4);
        String after = text.substring(by + 4);
        Matcher rule = Pattern.compile(
                        "(any one of |everyone of |a majority of |one from each of |in sequence one from each of |at least \\d+ (?:percent )?of )?(.*)")
                .matcher(after);
        if (!rule.matches()) {
            return Stream.empty();
        }
        String said = rule.group(1) == null ? "" : rule.group(1);
        return Stream.concat(
                said.isEmpty()
                        ? Stream.of(
                                        "any one of ",
                                        "everyone of ",
                                        "at least 2 of ",
                                        "a majority of ",
                                        "one from each of ",
                                        "in sequence one from each of ")
                                .filter(r -> r.startsWith(after) && !after.isEmpty() || after.isEmpty())
                                .map(r -> before + r)
                        : Stream.empty(),
                matching(names.groups(), rule.group(2)).map(name -> before + said + name + " "));
    }

    private Stream<String> paths(String text) {
        boolean expression = EXPRESSIONS.stream().anyMatch(text::startsWith)
                || text.matches("for each \\w+ in .*")
                || text.matches("run .*=.*");
        Matcher word = LAST_WORD.matcher(text);
        if (!expression || !word.find()) {
            return Stream.empty();
        }
        String typed = word.group();
        String before = text.substring(0, word.start());
        return names.fields().keySet().stream()
                .filter(p -> p.startsWith(typed) && !p.equals(typed))
                .map(p -> before + p);
    }
}
