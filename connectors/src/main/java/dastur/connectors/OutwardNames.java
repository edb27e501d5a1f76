package dastur.connectors;

import java.net.InetAddress;
import java.net.UnknownHostException;
import java.net.spi.InetAddressResolver;
import java.net.spi.InetAddressResolverProvider;
import java.util.List;
import java.util.stream.Stream;

/** Looks names up as the platform does, and leaves out of guarded ones what they may not lead to. Found by the platform as a service. */
public final class OutwardNames extends InetAddressResolverProvider {
    @Override
    public InetAddressResolver get(Configuration configuration) {
        return new Guarding(configuration.builtinResolver());
    }

    @Override
    public String name() {
        return "the outward guard";
    }

    record Guarding(InetAddressResolver platform) implements InetAddressResolver {
        @Override
        public Stream<InetAddress> lookupByName(String host, LookupPolicy policy) throws UnknownHostException {
            List<InetAddress> found = platform.lookupByName(host, policy).toList();
            List<InetAddress> permitted =
                    found.stream().filter(a -> Outward.mayLead(host, a)).toList();
            if (permitted.isEmpty() && !found.isEmpty()) {
                throw new UnknownHostException(host + " leads only to addresses that it may not lead to");
            }
            return permitted.stream();
        }

        @Override
        public String lookupByAddress(byte[] address) throws UnknownHostException {
            return platform.lookupByAddress(address);
        }
    }
}
