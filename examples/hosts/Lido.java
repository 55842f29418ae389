// A bare host of the Ostrel lido in Java: frames of uneven length and a hitch, events out of order, a save and a load.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to java -o generated
//     javac -d generated generated/OstrelLido.java examples/hosts/Lido.java && java -cp generated Lido

class Lido {
    static final OstrelLido.Star[] stars = new OstrelLido.Star[8];

    /** What is seen from the basin; nothing but the lamps that are read one by one is allocated. */
    static double look(OstrelLido run) {
        run.fillStar(0, stars);
        double sum = run.readFountain().intensity;
        sum += run.readStage().intensity;
        sum += run.readSiren().intensity;
        return sum + run.readPoolWall(9).intensity + run.readCabinsBulb(3).intensity + stars[7].intensity;
    }

    /** 4 to 24 ms, and now and then half a second is lost. */
    static double length(int frame) {
        return frame % 500 == 499 ? 0.5 : 0.004 + 0.02 * (frame % 7) / 6.0;
    }

    /** What the game does in a frame. */
    static void act(OstrelLido run, int frame) {
        switch (frame) {
            case 100 -> run.fireMainsBack(); // they are on already: nothing happens
            case 200 -> run.fireGala();
            case 300 -> run.fireCabinsCord(3);
            case 400 -> run.fireRocket(2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0);
            case 700 -> run.setThrottle(0.95);
            case 900 -> run.fireMainsOut();
            case 1000 -> run.fireMainsBack();
            case 2200 -> run.setWalker(2300.0, 170.0, -100.0);
            default -> { }
        }
    }

    public static void main(String[] arguments) {
        if (OstrelLido.selfTest() != 0) System.exit(1);
        for (int n = 0; n < stars.length; ++n) stars[n] = new OstrelLido.Star();
        final OstrelLido run = new OstrelLido(OstrelLido.BOOK_SEED);
        double time = 0.0;
        int notices = 0;
        byte[] saved = {};
        for (int frame = 0; frame < 3000; ++frame) {
            time += length(frame);
            act(run, frame);
            if (frame == 1500) saved = run.save();
            while (!run.advance(time)) { } // more than once only after a very long frame
            for (OstrelLido.Notice notice = run.takeNotice(); notice != null; notice = run.takeNotice()) {
                if (++notices <= 4) System.out.printf("%.3f s: %s %s%n", notice.moment, notice.name, notice.text);
            }
        }

        // From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
        final OstrelLido loaded = new OstrelLido(0);
        if (loaded.load(saved) != 0) System.exit(3);
        time = loaded.now;
        for (int frame = 1500; frame < 2200; ++frame) time += length(frame);
        loaded.advance(time);
        act(loaded, 2200);
        loaded.advance(run.now);
        if (look(loaded) != look(run)) System.exit(2);
        int sum = 0;
        for (byte one : saved) sum = 31 * sum + (one & 0xff);
        System.out.printf("%.1f s, %d notices, the same after loading%n", run.now, notices);
        System.out.printf("a save of %d bytes, %08x%n", saved.length, sum);
    }
}
