package dastur.core.notation;

import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.RotaKey;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.LadderKey;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** What many sentences have in common: people, fields, times, conditions and quotes, as they are read and as they are written. */
public final class Phrases {
    /** How the levels of a rota are said, from the first. */
    private static final List<String> LEVELS = List.of(
            "on call for", "second on call for", "third on call for", "fourth on call for", "fifth on call for");

    private static final Map<String, String> OPERATORS =
            new LinkedHashMap<>(Map.of("and", "&&", "or", "||", "not", "!"));

    private static final Pattern INLINE_INPUT = Pattern.compile("([A-Za-z][A-Za-z0-9_]*)=(\"[^\"]*\"|'[^']*'|\\S+)");

    private Phrases() {}

    // --- reading

    /** Several of those who are meant, with commas or "and" between them. */
    public static List<Party> parties(Scanner in) {
        List<Party> parties = new ArrayList<>();
        do {
            parties.add(party(in));
        } while (in.take(",") || in.take("and"));
        return parties;
    }

    public static Party party(Scanner in) {
        if (in.take("the requester's manager")) {
            return new Party.Manager();
        }
        if (in.take("the requester") || in.take("requester")) {
            return new Party.Requester();
        }
        if (in.take("everybody who is")) {
            String role = in.named("role", Role.names());
            return new Party.OfRole(Role.of(role).orElseThrow(() -> in.wrong("There is no role '" + role + "'.")));
        }
        for (int level = 1; level <= LEVELS.size(); level++) {
            if (in.take(LEVELS.get(level - 1))) {
                return new Party.OnCall(new RotaKey(in.named("rota", in.names().rotas())), level);
            }
        }
        if (in.take("the ticket's group")) {
            return new Party.TicketGroup();
        }
        if (in.take("the CI's owner")) {
            return new Party.CiOwner();
        }
        if (in.take("whoever is")) {
            if (in.atQuote()) {
                return new Party.TakesPart(in.quoted("What they take part as"));
            }
            in.expect("(");
            String expression = in.until("An expression", List.of(")"));
            in.expect(")");
            return new Party.Computed(expression);
        }
        if (in.take("person")) {
            return new Party.OfPerson(new PersonId(in.named("person", in.names().people())));
        }
        if (in.take("group")) {
            return new Party.OfGroup(new GroupId(in.named("group", in.names().groups())));
        }
        String id = in.named("group or person", in.names().parties());
        boolean person =
                in.names().people().containsKey(id) && !in.names().groups().containsKey(id);
        return person ? new Party.OfPerson(new PersonId(id)) : new Party.OfGroup(new GroupId(id));
    }

    public static Field field(Scanner in) {
        String name = in.id("The field's name");
        in.expect(":");
        FieldType type = Arrays.stream(FieldType.values())
                .filter(t -> in.take(t.word()))
                .findFirst()
                .orElseThrow(() -> in.wrong("A type is expected here: text, whole number, yes or no, choice, time …"));
        String label = in.quotedIfThere().orElse(name);
        List<String> choices = new ArrayList<>();
        if (in.take("one of")) {
            do {
                choices.add(in.quoted("A choice"));
            } while (in.take(","));
        }
        boolean required = in.take("required");
        String help = in.take("help") ? in.quoted("The help text") : null;
        return new Field(name, label, type, required, choices, help);
    }

    /** Conditions as people write them: = for ==, and, or, not. What stands in quotes is left alone. */
    public static String condition(String written) {
        StringBuilder out = new StringBuilder();
        int i = 0;
        while (i < written.length()) {
            char c = written.charAt(i);
            if (c == '"' || c == '\'') {
                int end = i + 1;
                while (end < written.length() && written.charAt(end) != c) {
                    end += written.charAt(end) == '\\' ? 2 : 1;
                }
                end = Math.min(written.length(), end + 1);
                out.append(written, i, end);
                i = end;
            } else if (c == '='
                    && "=!<>".indexOf(i == 0 ? ' ' : written.charAt(i - 1)) < 0
                    && (i + 1 >= written.length() || written.charAt(i + 1) != '=')) {
                out.append("==");
                i++;
            } else if (Character.isLetter(c)) {
                int end = i;
                while (end < written.length()
                        && (Character.isLetterOrDigit(written.charAt(end)) || written.charAt(end) == '_')) {
                    end++;
                }
                String word = written.substring(i, end);
                boolean part = i > 0 && written.charAt(i - 1) == '.';
                boolean gap = end < written.length() && written.charAt(end) == ' ';
                out.append(part || !gap ? word : OPERATORS.getOrDefault(word, word));
                i = end;
            } else {
                out.append(c);
                i++;
            }
        }
        return out.toString().replace("! ", "!");
    }

    /** An expression for an input: {@code name = expression}. */
    public static void input(Scanner in, Map<String, String> into) {
        String name = in.id("An input");
        in.expect("=");
        into.put(name, in.rest("An expression"));
    }

    /** Inputs that stand in the sentence itself: {@code name=value}. */
    public static void inlineInputs(Scanner in, Map<String, String> into) {
        Matcher m = INLINE_INPUT.matcher(in.left());
        while (m.lookingAt()) {
            in.take(m.group());
            into.put(m.group(1), m.group(2));
            m = INLINE_INPUT.matcher(in.left());
        }
    }

    public static ActionKey action(Scanner in) {
        return new ActionKey(in.named("action", in.names().actions()));
    }

    public static LadderKey ladder(Scanner in) {
        return new LadderKey(in.named("ladder", in.names().ladders()));
    }

    // --- writing

    public static String party(Party party) {
        return switch (party) {
            case Party.OfGroup g -> "group " + g.group();
            case Party.OfPerson p -> "person " + p.person();
            case Party.Requester r -> "the requester";
            case Party.TicketGroup t -> "the ticket's group";
            case Party.CiOwner o -> "the CI's owner";
            case Party.OnCall o -> LEVELS.get(o.level() - 1) + " " + o.rota();
            case Party.OfRole r -> "everybody who is " + r.role().word();
            case Party.TakesPart t -> "whoever is " + quoted(t.as());
            case Party.Manager m -> "the requester's manager";
            case Party.Computed c -> "whoever is (" + c.expression() + ")";
        };
    }

    public static String parties(List<Party> parties) {
        return parties.stream().map(Phrases::party).collect(Collectors.joining(", "));
    }

    public static String within(@Nullable Span span) {
        return span == null ? "" : " within " + span;
    }

    public static String field(Field f) {
        List<String> parts = new ArrayList<>();
        parts.add(f.name() + ": " + f.type().word());
        parts.add(quoted(f.label()));
        if (f.choices() != null) {
            parts.add("one of " + f.choices().stream().map(Phrases::quoted).collect(Collectors.joining(", ")));
        }
        if (f.required()) {
            parts.add("required");
        }
        if (f.help() != null) {
            parts.add("help " + quoted(f.help()));
        }
        return String.join(" ", parts);
    }

    /** Plain small words stand as they are, other names of exits in quotes. */
    public static String exit(String exit) {
        return exit.matches("[a-z]+(?: [a-z]+)*") ? exit : quoted(exit);
    }

    public static String quoted(String text) {
        StringBuilder quoted = new StringBuilder("\"");
        for (char c : text.toCharArray()) {
            switch (c) {
                case '\\' -> quoted.append("\\\\");
                case '"' -> quoted.append("\\\"");
                case '\n' -> quoted.append("\\n");
                case '\t' -> quoted.append("\\t");
                case '\r' -> quoted.append("\\r");
                default -> {
                    // Other characters that end a line would tear the text apart.
                    quoted.append(tears(c) ? String.format("\\u%04x", (int) c) : String.valueOf(c));
                }
            }
        }
        return quoted.append('"').toString();
    }

    static boolean tears(int c) {
        return Character.isISOControl(c) || c == 0x2028 || c == 0x2029;
    }
}
