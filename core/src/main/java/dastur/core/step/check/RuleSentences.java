package dastur.core.step.check;

import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.run.RuleSeen;
import dastur.core.time.Span;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Rules of checks as lines of text. */
final class RuleSentences {
    private static final Pattern MEASURED = Pattern.compile(
            "(.*), measured by ([A-Za-z][A-Za-z0-9_]*)(?:, at most (.+?) old)?(?:, after ([A-Za-z][A-Za-z0-9_]*))?");

    private RuleSentences() {}

    static Check.Rule read(Scanner in) {
        String name = in.quoted("The rule's name");
        RuleSeen.Sense sense = in.take("stays") ? RuleSeen.Sense.STAY : RuleSeen.Sense.TURN_GOOD;
        in.expect(":");
        List<String> comparisons = List.of(
                " is not ",
                " is ",
                " within ",
                " above ",
                " at least ",
                " below ",
                " at most ",
                " contains ",
                " holds");
        String value = in.until("What is judged", comparisons);
        if (in.take("holds")) {
            return measured(in, name, sense, value, Check.Compare.HOLDS, null, null);
        }
        if (in.take("within")) {
            double share = Double.parseDouble(in.until("A share", List.of(" %", "%")));
            in.expect("%");
            in.expect("of");
            return measured(in, name, sense, value, Check.Compare.WITHIN, in.rest("What it is compared with"), share);
        }
        for (Check.Compare compare : List.of(
                Check.Compare.DIFFERENT,
                Check.Compare.EQUAL,
                Check.Compare.ABOVE,
                Check.Compare.AT_LEAST,
                Check.Compare.BELOW,
                Check.Compare.AT_MOST,
                Check.Compare.CONTAINS)) {
            if (in.take(compare.word())) {
                return measured(in, name, sense, value, compare, in.rest("What it is compared with"), null);
            }
        }
        throw in.wrong("A comparison is expected here: is, is not, within, above, at least, below, at most, contains.");
    }

    private static Check.Rule measured(
            Scanner in,
            String name,
            RuleSeen.Sense sense,
            String value,
            Check.Compare compare,
            @Nullable String against,
            @Nullable Double share) {
        String tail = against == null ? in.left().strip() : against;
        Matcher m = MEASURED.matcher(tail);
        boolean aged = m.matches();
        if (against == null && !tail.isEmpty()) {
            String ignored = in.rest("More");
        }
        return new Check.Rule(
                name,
                value,
                compare,
                against == null ? null : aged ? m.group(1) : against,
                share,
                sense,
                aged ? new StepId(m.group(2)) : null,
                aged && m.group(3) != null ? Span.parse(m.group(3)) : null,
                aged && m.group(4) != null ? new StepId(m.group(4)) : null);
    }

    static String write(Check.Rule r) {
        String compared =
                switch (r.compare()) {
                    case HOLDS -> " holds";
                    case WITHIN -> " within " + r.share() + " % of " + r.against();
                    default -> " " + r.compare().word() + " " + r.against();
                };
        return "rule " + Phrases.quoted(r.name()) + (r.sense() == RuleSeen.Sense.STAY ? " stays" : "") + ": "
                + r.value()
                + compared
                + (r.capture() == null ? "" : ", measured by " + r.capture())
                + (r.maxAge() == null ? "" : ", at most " + r.maxAge() + " old")
                + (r.after() == null ? "" : ", after " + r.after());
    }
}
