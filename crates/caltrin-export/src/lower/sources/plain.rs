/// ABOUT
pub fn set(run: &mut Run, option: u32) {
    if outside(option, COUNT) {
        return;
    }
    run.chosen = option;
    if HAPPENS {
        run.due = run.now;
    }
    if FOLLOWS {
        settle(run);
    }
}
