//! The one account of a job: one job on one day under one practice, and all that follows, worked out when it is asked for and
//! once. Page, PDF, table, drawings and command line render a [`Case`] and select nothing themselves, so they cannot disagree.
//!
//! - A case stands as long as its [`Key`]: the number of the job's last change, the practice's, and the day. Never the time.
//! - "Today", the practice and the units are part of the case; nothing further down asks for them.

mod cases;
mod front;
mod view;
mod years;

pub use cases::{Cases, Key};
pub use envelope::years::leaving::DueAccount;
pub use front::{FirstThing, FrontPage, MOST_SENTENCES, Unseen, counted, percent};
pub use view::{Closing, JobView, LeftFrom};
pub use years::{
    BuildingAccount, SeriesPoint, SeriesRow, TimeEntry, building_account, due, due_on, lines_to_answer, return_changes, return_from,
    returned, series,
};

use envelope::finding::{Finding, findings};
use envelope::ground::after::{Mending, mending};
use envelope::ground::rain_test::{RainTest, RainTestError, Wanted, rain_test};
use envelope::ground::record::Ground;
use envelope::ground::survey::{GroundInput, Survey, survey};
use envelope::gutter::begins::Beginnings;
use envelope::job::Brief;
use envelope::moisture::account::{MoistureAccount, MoistureInput, moisture_account};
use envelope::moisture::record::Moisture;
use envelope::practice::Practice;
use envelope::rain::account::{RainAccount, RainAccountInput, rain_account_with};
use envelope::rain::record::Rainwater;
use envelope::roof::account::{Account, AccountInput, account};
use envelope::roof::key_plan::{KeyPlan, key_plan};
use envelope::roof::record::Roof;
use envelope::round::Note;
use envelope::site::{Cell, Face};
use envelope::storm::account::{StormOn, storm_account};
use envelope::storm::figures::StormAccount;
use envelope::storm::record::StormVisit;
use envelope::trace::account::{TraceAccount, TraceOn, trace_account};
use envelope::trace::record::Trace;
use envelope::wall::account::{Booked, Clearance, WallAccount, WallInput, wall_account};
use envelope::wall::record::Walls;
use jiff::civil::Date;
use ledger::WholeJob;
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, OnceLock};

/// One job on one day under one practice.
#[derive(Debug)]
pub struct Case {
    whole: WholeJob,
    practice: Practice,
    today: Date,
    findings: OnceLock<Vec<Finding>>,
    view: OnceLock<JobView>,
    // What is dear is shared with the case after the next change, when nothing it stands on is another.
    roof: OnceLock<Arc<Account>>,
    rain: OnceLock<Arc<RainAccount>>,
    ground: OnceLock<Arc<(GroundInput, Survey)>>,
    /// From which rain on runs of gutters spill, as far as it was asked.
    beginnings: Arc<Beginnings>,
    storm: OnceLock<Arc<Result<RainTest, RainTestError>>>,
    mending: OnceLock<Arc<Result<Vec<Mending>, RainTestError>>>,
    walls: OnceLock<WallAccount>,
    moisture: OnceLock<Arc<MoistureAccount>>,
    trace: OnceLock<TraceAccount>,
    damage: OnceLock<StormAccount>,
    front: OnceLock<FrontPage>,
}

impl Case {
    /// A job as it is kept, on a day. Nothing is worked out yet.
    pub fn new(mut whole: WholeJob, today: Date) -> Case {
        whole.items.sort_by_key(|i| (i.body.face, i.body.kind, i.body.number()));
        // The job's own units stand before the practice's; everything that is said of the job reads them here.
        let practice = Practice { units: whole.job.body.brief.units_under(&whole.practice), ..whole.practice.clone() };
        Case {
            whole,
            practice,
            today,
            findings: OnceLock::new(),
            view: OnceLock::new(),
            roof: OnceLock::new(),
            rain: OnceLock::new(),
            ground: OnceLock::new(),
            beginnings: Arc::default(),
            storm: OnceLock::new(),
            mending: OnceLock::new(),
            walls: OnceLock::new(),
            moisture: OnceLock::new(),
            trace: OnceLock::new(),
            damage: OnceLock::new(),
            front: OnceLock::new(),
        }
    }

    /// The same job after a change: what the change did not touch need not be worked out again.
    pub fn after(whole: WholeJob, today: Date, before: &Case) -> Case {
        let mut case = Case::new(whole, today);
        let (a, b) = (&before.whole, &case.whole);
        let base = before.practice == case.practice && a.job.body.brief == b.job.body.brief && a.roof == b.roof;
        let noted = base && a.notes == b.notes;
        let rained = base && a.rainwater == b.rainwater;
        fn kept<T>(it: &OnceLock<Arc<T>>, same: bool) -> OnceLock<Arc<T>> {
            it.get().filter(|_| same).map_or_else(OnceLock::new, |v| OnceLock::from(v.clone()))
        }
        case.roof = kept(&before.roof, noted && before.today == today);
        case.rain = kept(&before.rain, rained);
        // What is known of a run holds wherever a run like it hangs.
        case.beginnings = before.beginnings.clone();
        let ground = noted && rained && a.ground == b.ground;
        case.ground = kept(&before.ground, ground);
        case.storm = kept(&before.storm, ground);
        case.mending = kept(&before.mending, ground);
        case.moisture = kept(&before.moisture, base && a.moisture == b.moisture);
        case
    }

    /// The job as it is kept.
    pub fn whole(&self) -> &WholeJob {
        &self.whole
    }
    /// The day it is worked out for.
    pub fn today(&self) -> Date {
        self.today
    }
    /// The practice that holds for the job, with the units the job is read in.
    pub fn practice(&self) -> &Practice {
        &self.practice
    }
    /// What is known before the round.
    pub fn brief(&self) -> &Brief {
        &self.whole.job.body.brief
    }
    /// Its notes, in the order they were entered.
    pub fn notes(&self) -> impl Iterator<Item = &Note> {
        self.whole.notes.iter().map(|n| &n.body)
    }

    /// Every note judged, soonest first, numbered.
    pub fn findings(&self) -> &[Finding] {
        self.findings.get_or_init(|| findings(self.whole.notes.iter().map(|n| (n.id.as_str(), &n.body)), self.brief(), &self.practice))
    }

    /// The findings of each cell, soonest first.
    pub fn by_cell(&self) -> BTreeMap<Cell, Vec<&Finding>> {
        let cells: HashMap<&str, Cell> = self.whole.notes.iter().map(|n| (n.id.as_str(), n.body.place.cell())).collect();
        let mut out: BTreeMap<Cell, Vec<&Finding>> = BTreeMap::new();
        for f in self.findings() {
            if let Some(cell) = cells.get(f.note_id.as_str()) {
                out.entry(*cell).or_default().push(f);
            }
        }
        out
    }

    /// What the page and the report show of the job.
    pub fn view(&self) -> &JobView {
        self.view.get_or_init(|| view::view(self))
    }

    /// The first page: the answer, what comes first, what is dangerous, what was not seen.
    pub fn front(&self) -> &FrontPage {
        self.front.get_or_init(|| front::front_page(self))
    }

    /// The roof as it was measured; an empty one while nothing was.
    pub fn roof_kept(&self) -> Roof {
        self.whole.roof.as_ref().map(|r| r.body.clone()).unwrap_or_default()
    }
    /// Rain and gutters as they were met.
    pub fn rainwater_kept(&self) -> Rainwater {
        self.whole.rainwater.as_ref().map(|r| r.body.clone()).unwrap_or_default()
    }
    /// The ground as it was read.
    pub fn ground_kept(&self) -> Ground {
        self.whole.ground.as_ref().map(|g| g.body.clone()).unwrap_or_default()
    }

    /// What follows from the roof as it was measured.
    pub fn roof(&self) -> &Account {
        self.roof.get_or_init(|| {
            let input =
                AccountInput { roof: self.roof_kept(), brief: self.brief().clone(), practice: self.practice.clone(), today: self.today };
            Arc::new(account(&input, &self.notes().collect::<Vec<_>>()))
        })
    }

    /// The building from above: its own outline where its roof is drawn, else the wheel.
    pub fn key_plan(&self) -> KeyPlan {
        let own = self.roof().shape.as_ref().and_then(|s| key_plan(s, self.brief().front_faces));
        own.unwrap_or_else(|| KeyPlan::of_wheel(&self.view().wheel))
    }

    /// What goes into the account of the rain: other gutters than those that were met, another rain.
    pub fn rain_input(&self, rainwater: Rainwater, at_mm_h: Option<f64>, remedies: bool) -> RainAccountInput {
        RainAccountInput {
            roof: self.roof_kept(),
            rainwater,
            front_faces: self.brief().front_faces,
            driving_rain_from: self.brief().driving_rain_from,
            practice: self.practice.clone(),
            at_mm_h,
            remedies,
        }
    }
    /// Where the design rain goes, with the gutters as they were met.
    pub fn rain(&self) -> &RainAccount {
        self.rain.get_or_init(|| Arc::new(self.rain_of(&self.rain_input(self.rainwater_kept(), None, false))))
    }
    /// Where rain goes with other gutters than those that were met, or in another rain. What is found of a gutter is kept for the next.
    pub fn rain_of(&self, input: &RainAccountInput) -> RainAccount {
        rain_account_with(input, &self.beginnings)
    }

    /// What goes into the survey of the ground: another ground or other gutters than those that were met.
    pub fn ground_input(&self, ground: Ground, rainwater: Option<Rainwater>) -> GroundInput {
        GroundInput {
            ground,
            roof: self.roof_kept(),
            rainwater: rainwater.unwrap_or_else(|| self.rainwater_kept()),
            brief: self.brief().clone(),
            practice: self.practice.clone(),
            notes: self.notes().cloned().collect(),
        }
    }
    fn surveyed(&self) -> &(GroundInput, Survey) {
        self.ground.get_or_init(|| {
            let input = self.ground_input(self.ground_kept(), None);
            let survey = survey(&input);
            Arc::new((input, survey))
        })
    }
    /// What went into [`Case::survey`].
    pub fn ground(&self) -> &GroundInput {
        &self.surveyed().0
    }
    /// What follows from the ground as it was read.
    pub fn survey(&self) -> &Survey {
        &self.surveyed().1
    }
    /// The design storm over the whole place.
    ///
    /// # Errors
    /// Why it cannot be run.
    pub fn storm(&self) -> Result<&RainTest, &RainTestError> {
        self.storm.get_or_init(|| Arc::new(rain_test(self.survey(), self.ground(), Wanted::default(), &mut |_| true))).as_ref().as_ref()
    }
    /// What would mend each place the design storm wets.
    ///
    /// # Errors
    /// Why the storm cannot be run.
    pub fn mending(&self) -> Result<&[Mending], &RainTestError> {
        self.mending.get_or_init(|| Arc::new(mending(self.survey(), self.ground(), Wanted::default()))).as_ref().as_ref().map(Vec::as_slice)
    }

    /// The walls as they were met.
    pub fn walls_kept(&self) -> Walls {
        self.whole.walls.as_ref().map(|w| w.body.clone()).unwrap_or_default()
    }
    /// What goes into the account of the walls: others than those that were met.
    pub fn wall_input(&self, walls: Walls) -> WallInput {
        // A face is as long as its walls are; the roof reaches past them.
        let long = |face: Face| {
            let e = self.roof().elevations.iter().find(|e| e.face == face)?;
            let x = e.outlines.iter().filter(|o| o.facet.is_none()).flat_map(|o| &o.points).map(|p| p[0]);
            let (low, high) = x.fold((f64::MAX, f64::MIN), |(l, h), x| (l.min(x), h.max(x)));
            (high > low).then_some((face, high - low))
        };
        let clearances = self.survey().account.transects.iter().filter(|t| t.cladding_m.is_some()).map(|t| Clearance {
            face: t.face,
            station_m: t.station_m,
            stands_m: t.input.cladding_clearance_m,
            asked_m: t.input.clearance_required_m,
        });
        WallInput {
            walls,
            items: self.whole.items.iter().map(|i| i.body.clone()).collect(),
            notes: self.notes().cloned().collect(),
            face_m: Face::ALL.into_iter().filter_map(long).collect(),
            clearances: clearances.collect(),
            // A book that misses by more than it may gives no heights.
            booked: self
                .survey()
                .account
                .book
                .iter()
                .filter(|b| b.within_tolerance != Some(false))
                .flat_map(|b| &b.points)
                .map(|p| Booked { point: p.point.clone(), height_m: p.adjusted_by_setup_m })
                .collect(),
            practice: self.practice.clone(),
        }
    }
    /// What follows from the walls as they were met.
    pub fn walls(&self) -> &WallAccount {
        self.walls.get_or_init(|| wall_account(&self.wall_input(self.walls_kept())))
    }

    /// Rooms and readings as they are kept.
    pub fn moisture_kept(&self) -> Moisture {
        self.whole.moisture.as_ref().map(|m| m.body.clone()).unwrap_or_default()
    }
    /// What goes into the account of the moisture: other readings than those that were taken.
    pub fn moisture_input(&self, moisture: Moisture) -> MoistureInput {
        MoistureInput { moisture, roof: self.roof_kept(), front_faces: self.brief().front_faces, practice: self.practice.clone() }
    }
    /// What follows from the readings that were taken.
    pub fn moisture(&self) -> &MoistureAccount {
        self.moisture.get_or_init(|| Arc::new(moisture_account(&self.moisture_input(self.moisture_kept()))))
    }

    /// Spots and tests as they are kept.
    pub fn trace_kept(&self) -> Trace {
        self.whole.trace.as_ref().map(|t| t.body.clone()).unwrap_or_default()
    }
    /// The tracing with other spots, answers or tests than those that are kept; gathered from every bench.
    pub fn traced(&self, kept: &Trace) -> TraceAccount {
        let notes: Vec<(String, Note)> = self.whole.notes.iter().map(|n| (n.id.clone(), n.body.clone())).collect();
        // The visit stands at the end of its day: what was seen on it is before it.
        let visit = format!("{}T23:00", self.brief().visited_on.unwrap_or(self.today));
        trace_account(&TraceOn {
            kept,
            moisture: (&self.moisture_kept(), self.moisture()),
            roof: &self.roof_kept(),
            shape: self.roof().shape.as_ref(),
            details: &self.roof().details,
            notes: &notes,
            ways_in: &self.walls().ways_in,
            rainwater: (&self.rainwater_kept(), self.rain()),
            ground: &self.survey().account,
            front: self.brief().front_faces,
            visit: &visit,
            practice: &self.practice,
        })
    }
    /// The tracing of what is kept.
    pub fn trace(&self) -> &TraceAccount {
        self.trace.get_or_init(|| self.traced(&self.trace_kept()))
    }

    /// The count after a storm as it is kept.
    pub fn damage_kept(&self) -> StormVisit {
        self.whole.storm.as_ref().map(|s| s.body.clone()).unwrap_or_default()
    }
    /// What goes into the account of a count: another than the one that is kept.
    pub fn damage_on<'a>(&'a self, kept: &'a StormVisit) -> StormOn<'a> {
        StormOn {
            kept,
            roof: self.roof(),
            second_layer: self.whole.roof.as_ref().is_some_and(|r| r.body.setting.second_layer),
            front: self.brief().front_faces,
            visit: self.brief().visited_on.unwrap_or(self.today),
            practice: &self.practice,
            noted: self.notes().filter_map(|n| Some((n.place.face, n.place.zone, n.condition.clone()?))).collect(),
            notes: self.whole.notes.iter().map(|n| (n.id.as_str(), &n.body)).collect(),
        }
    }
    /// What follows from the count after a storm.
    pub fn damage(&self) -> &StormAccount {
        self.damage.get_or_init(|| storm_account(&self.damage_on(&self.damage_kept())))
    }
}
