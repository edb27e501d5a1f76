package dastur.store;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.LongAdder;
import org.h2.store.fs.FileBase;
import org.h2.store.fs.FilePathWrapper;
import org.jspecify.annotations.Nullable;

/**
 * The file systems under which H2 writes its file. It writes a part, and then the header at the beginning of the file that
 * leads to it, with nothing between: a power failure could keep any sectors of both and lose the others (K3). So under
 * {@link #ORDERED} a part only becomes a part when it is whole on the disk, and the header only leads to what is there.
 */
final class PartFiles {
    /** For what outlives a power failure: nothing is acknowledged before the file was forced. */
    static final String ORDERED = "ordered";
    /** For what outlives a killed process: what was written is left to the operating system. */
    static final String QUICK = "quick";

    private static final Runnable NOTHING = () -> {};
    private static final Map<String, LongAdder> WRITTEN = new ConcurrentHashMap<>();
    private static final Map<String, Runnable> BEFORE_EACH_PART = new ConcurrentHashMap<>();

    private PartFiles() {}

    /** Has something done right before each part of a file is written, by the thread that writes it. */
    static void beforeEachPart(String name, Runnable what) {
        BEFORE_EACH_PART.put(name, what);
    }

    /** Counts the bytes written to a file. */
    static LongAdder written(String name) {
        return WRITTEN.computeIfAbsent(name, n -> new LongAdder());
    }

    /** Public, since H2 makes its paths by reflection. */
    public static final class Ordered extends FilePathWrapper {
        @Override
        public String getScheme() {
            return ORDERED;
        }

        @Override
        public FileChannel open(String mode) throws IOException {
            return new OrderedChannel(super.open(mode), toString());
        }
    }

    /** Public, since H2 makes its paths by reflection. */
    public static final class Quick extends FilePathWrapper {
        @Override
        public String getScheme() {
            return QUICK;
        }

        @Override
        public FileChannel open(String mode) throws IOException {
            return new Channel(super.open(mode), toString());
        }
    }

    /** Counts what is written. */
    private static class Channel extends FileBase {
        final FileChannel file;
        private final String name;
        private final LongAdder written;

        Channel(FileChannel file, String name) {
            this.file = file;
            this.name = name;
            this.written = written(name);
        }

        @Override
        public int write(ByteBuffer from, long position) throws IOException {
            if (position > 0) {
                BEFORE_EACH_PART.getOrDefault(name, NOTHING).run();
            }
            written.add(from.remaining());
            return file.write(from, position);
        }

        @Override
        public int write(ByteBuffer from) throws IOException {
            throw new IOException("this file is written at a position only");
        }

        @Override
        public int read(ByteBuffer to, long position) throws IOException {
            return file.read(to, position);
        }

        @Override
        public int read(ByteBuffer to) throws IOException {
            return file.read(to);
        }

        @Override
        public long position() throws IOException {
            return file.position();
        }

        @Override
        public FileChannel position(long position) throws IOException {
            file.position(position);
            return this;
        }

        @Override
        public long size() throws IOException {
            return file.size();
        }

        @Override
        public FileChannel truncate(long size) throws IOException {
            file.truncate(size);
            return this;
        }

        @Override
        public void force(boolean metaData) throws IOException {
            file.force(metaData);
        }

        @Override
        public FileLock tryLock(long position, long size, boolean shared) throws IOException {
            return file.tryLock(position, size, shared);
        }

        @Override
        protected void implCloseChannel() throws IOException {
            file.close();
        }

        @Override
        public String toString() {
            return name;
        }
    }

    /**
     * Holds back the first sector of a part, without which it is none, until the rest of it is on the disk. H2 checks a part by
     * its beginning and its end only: one of which the middle was lost would be taken for whole, and the file not open.
     */
    private static final class OrderedChannel extends Channel {
        /** What a disk writes whole or not at all. Bytes; the beginning by which a part is known is shorter. */
        private static final int SECTOR = 512;

        private record Held(long position, byte[] sector) {}

        private @Nullable Held held;

        OrderedChannel(FileChannel file, String name) {
            super(file, name);
        }

        @Override
        public synchronized int write(ByteBuffer from, long position) throws IOException {
            complete();
            if (position == 0) {
                file.force(false);
                return super.write(from, position);
            }
            int length = from.remaining();
            if (length <= SECTOR) {
                return super.write(from, position);
            }
            byte[] sector = new byte[SECTOR];
            from.get(sector);
            long at = position + SECTOR;
            while (from.hasRemaining()) {
                at += super.write(from, at);
            }
            held = new Held(position, sector);
            return length;
        }

        /** Makes what was written last a part, once the rest of it is on the disk. */
        private void complete() throws IOException {
            Held part = held;
            if (part != null) {
                file.force(false);
                ByteBuffer sector = ByteBuffer.wrap(part.sector());
                long at = part.position();
                while (sector.hasRemaining()) {
                    at += file.write(sector, at);
                }
                held = null;
            }
        }

        @Override
        public synchronized void force(boolean metaData) throws IOException {
            complete();
            file.force(metaData);
        }

        @Override
        public synchronized int read(ByteBuffer to, long position) throws IOException {
            int from = to.position();
            int read = file.read(to, position);
            Held part = held;
            if (part != null && read > 0) {
                long first = Math.max(position, part.position());
                long end = Math.min(position + read, part.position() + SECTOR);
                for (long at = first; at < end; at++) {
                    to.put(from + (int) (at - position), part.sector()[(int) (at - part.position())]);
                }
            }
            return read;
        }

        @Override
        public synchronized FileChannel truncate(long size) throws IOException {
            complete();
            return super.truncate(size);
        }

        @Override
        protected synchronized void implCloseChannel() throws IOException {
            complete();
            super.implCloseChannel();
        }
    }
}
