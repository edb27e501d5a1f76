package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.regex.Pattern;

/** An address, or all that begin alike: {@code 10.30.0.12}, {@code 10.30.0.0/16}, {@code fd00::/8} (RFC 4632, RFC 4291). */
public final class Network {
    private static final Pattern FOUR = Pattern.compile("\\d{1,3}(\\.\\d{1,3}){3}");
    private static final Pattern SIX = Pattern.compile("[0-9a-fA-F:.]*:[0-9a-fA-F:.]*");

    private final String text;
    private final byte[] address;
    private final int bits;

    /** @throws IllegalArgumentException where it is none; nothing is looked up by name */
    @JsonCreator
    public Network(String text) {
        this.text = text.strip();
        int slash = this.text.indexOf('/');
        String host = slash < 0 ? this.text : this.text.substring(0, slash);
        if (!FOUR.matcher(host).matches() && !SIX.matcher(host).matches()) {
            throw no(text);
        }
        try {
            this.address = InetAddress.getByName(host).getAddress();
            this.bits = slash < 0 ? address.length * Byte.SIZE : Integer.parseInt(this.text.substring(slash + 1));
        } catch (UnknownHostException | NumberFormatException e) {
            throw no(text);
        }
        if (bits < 1 || bits > address.length * Byte.SIZE) {
            throw no(text);
        }
    }

    private static IllegalArgumentException no(String text) {
        return new IllegalArgumentException(
                "'" + text + "' is neither an address nor a network such as 10.30.0.12 or 10.30.0.0/16.");
    }

    public boolean contains(InetAddress other) {
        return contains(other.getAddress());
    }

    private boolean contains(byte[] its) {
        if (its.length != address.length) {
            return false;
        }
        for (int bit = 0; bit < bits; bit++) {
            int mask = 0x80 >> bit % Byte.SIZE;
            if ((its[bit / Byte.SIZE] & mask) != (address[bit / Byte.SIZE] & mask)) {
                return false;
            }
        }
        return true;
    }

    /** Whether some address is in both. */
    public boolean meets(Network other) {
        Network wider = bits <= other.bits ? this : other;
        return wider.contains(wider == this ? other.address : address);
    }

    @JsonValue
    @Override
    public String toString() {
        return text;
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof Network n && n.text.equals(text);
    }

    @Override
    public int hashCode() {
        return text.hashCode();
    }
}
