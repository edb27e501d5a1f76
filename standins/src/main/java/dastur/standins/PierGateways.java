package dastur.standins;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.IntStream;

/**
 * The gateways of the piers, over SSH: {@code gateway devices ALD-GW1} says which devices behind it answer,
 * {@code gateway save}, {@code gateway restart} and {@code gateway install ALD-GW1 7.3.0} change it. New software may not agree
 * with some devices.
 */
public final class PierGateways {
    private static final String FIRST = "7.2.1";
    private static final Map<String, Integer> BOARDS = Map.of("ALD-GW1", 14, "GNQ-GW1", 12, "NSL-GW1", 8);

    /** What new software does to the devices of a pier. */
    public enum Trouble {
        /** Some do not come back until the gateway has been started once more. */
        UNTIL_STARTED(3),
        /** Some do not come back while that software is on it. */
        UNTIL_PUT_BACK(5);

        private final int away;

        Trouble(int away) {
            this.away = away;
        }
    }

    private final Map<String, String> versions = new ConcurrentHashMap<>();
    private final Map<String, Trouble> troubles = new ConcurrentHashMap<>();
    private final Map<String, Trouble> suffers = new ConcurrentHashMap<>();

    /** What the next new software on a gateway will do; nothing for no harm. */
    public void trouble(String gateway, Optional<Trouble> trouble) {
        trouble.ifPresentOrElse(t -> troubles.put(gateway, t), () -> troubles.remove(gateway));
    }

    boolean willHave(String gateway, Trouble trouble) {
        return troubles.get(gateway) == trouble;
    }

    public String version(String gateway) {
        return versions.getOrDefault(gateway, FIRST);
    }

    /** The boards behind a gateway: ALD-01 and so on behind ALD-GW1. */
    static List<String> boards(String gateway) {
        String pier = gateway.substring(0, gateway.indexOf('-'));
        return IntStream.rangeClosed(1, BOARDS.get(gateway))
                .mapToObj(i -> "%s-%02d".formatted(pier, i))
                .toList();
    }

    /** What the control page shows of each. */
    Map<String, String> all() {
        Map<String, String> all = new TreeMap<>();
        BOARDS.keySet().forEach(g -> all.put(g, version(g) + ", " + answering(g) + " of " + BOARDS.get(g) + " answer"));
        return all;
    }

    /** What a command is answered; nothing for one that is not known. */
    Optional<Object> answer(List<String> words) {
        String gateway = words.size() > 2 ? words.get(2) : "";
        if (!BOARDS.containsKey(gateway)) {
            return Optional.empty();
        }
        return switch (words.get(1)) {
            case "devices" -> Optional.of(devices(gateway));
            case "save" -> Optional.of(Map.of("reference", "settings of " + gateway));
            case "restart" -> Optional.of(restart(gateway));
            case "install" -> words.size() == 4 ? Optional.of(install(gateway, words.get(3))) : Optional.empty();
            default -> Optional.empty();
        };
    }

    private Map<String, Object> restart(String gateway) {
        suffers.remove(gateway, Trouble.UNTIL_STARTED);
        return Map.of("reference", "start of " + gateway);
    }

    /** What was there already is not installed once more. */
    private Map<String, Object> install(String gateway, String version) {
        String before = version(gateway);
        versions.put(gateway, version);
        if (version.equals(FIRST)) {
            suffers.remove(gateway);
        } else if (!version.equals(before) && troubles.containsKey(gateway)) {
            suffers.put(gateway, troubles.get(gateway));
        }
        return Map.of("gateway", gateway, "version", version, "reference", version + " on " + gateway);
    }

    private int answering(String gateway) {
        Trouble trouble = suffers.get(gateway);
        return BOARDS.get(gateway) - (trouble == null ? 0 : trouble.away);
    }

    private Map<String, Object> devices(String gateway) {
        int count = BOARDS.get(gateway);
        int answering = answering(gateway);
        List<Map<String, Object>> devices = new ArrayList<>();
        for (int i = 1; i <= count; i++) {
            // The last ones stay away.
            devices.add(Map.of(
                    "device",
                    String.format(Locale.ROOT, "%s-%02d", gateway.substring(0, 3), i),
                    "answers",
                    i <= answering,
                    "firmware",
                    "4.11"));
        }
        return Map.of(
                "gateway",
                gateway,
                "version",
                version(gateway),
                "count",
                count,
                "answering",
                answering,
                "devices",
                devices);
    }
}
