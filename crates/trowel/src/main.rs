//! The `trowel` command.

mod commands;

use clap::{Parser, Subcommand};
use report::{Cut, Paper, ReportWanted};
use std::net::IpAddr;
use std::path::PathBuf;
use std::process::ExitCode;

/// Follow the water: inspect the outside of buildings, from the walk to the report.
#[derive(Debug, Parser)]
#[command(name = "trowel", version)]
struct Cli {
    /// Folder that holds everything.
    #[arg(long, global = true, default_value = "trowel-data", env = "TROWEL_DATA")]
    data: PathBuf,
    /// Who works here; written into the history.
    #[arg(long, global = true, default_value = "inspector", env = "TROWEL_WHO")]
    who: String,
    /// Log as JSON lines.
    #[arg(long, global = true)]
    log_json: bool,
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, clap::Args)]
struct Listen {
    /// Address to listen on. Anything but this machine itself is reachable by others, who are asked for an access key.
    #[arg(long, default_value = "127.0.0.1")]
    bind: IpAddr,
    /// Port; 0 takes a free one.
    #[arg(long, default_value_t = 4310)]
    port: u16,
    /// Further host names a browser may use to reach this server.
    #[arg(long = "host")]
    hosts: Vec<String>,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serve the application.
    Serve(Listen),
    /// Load the demo jobs and serve.
    Demo {
        #[command(flatten)]
        listen: Listen,
        /// Start over: the data folder is emptied first.
        #[arg(long)]
        fresh: bool,
        /// Load the jobs and stop.
        #[arg(long)]
        load_only: bool,
    },
    /// Write the report of a job as PDF, or another cut of the same account.
    Report {
        /// Id or beginning of the name.
        job: String,
        /// File to write.
        #[arg(long, short)]
        out: PathBuf,
        /// One page in short.
        #[arg(long, conflicts_with_all = ["insurer", "trade"])]
        note: bool,
        /// A statement of the roof for an insurer.
        #[arg(long, conflicts_with = "trade")]
        insurer: bool,
        /// The work list of one trade, as the report names it.
        #[arg(long)]
        trade: Option<String>,
        /// On letter paper.
        #[arg(long)]
        letter: bool,
    },
    /// Write a job as a bundle, or its findings as CSV when the file ends in .csv.
    Export {
        /// Id or beginning of the name.
        job: String,
        /// File to write.
        #[arg(long, short)]
        out: PathBuf,
    },
    /// Read a bundle in.
    Import {
        /// The bundle.
        file: PathBuf,
    },
    /// Write a copy of everything while work goes on.
    Backup {
        /// File to write.
        file: PathBuf,
    },
    /// Go back to a backup. It is proved whole before anything is replaced, and what was there is kept aside.
    Restore {
        /// The backup.
        file: PathBuf,
    },
    /// Look whether everything that is kept is sound, and say what to do.
    Check {
        /// Rebuild what is derived: the search, the list, files no picture names. Nothing else is touched.
        #[arg(long)]
        mend: bool,
    },
    /// Run one calculation: JSON in from a file or standard input, JSON out.
    #[command(after_help = calculations())]
    Calc {
        /// Which; they are listed below.
        name: String,
        /// File to read; standard input without it.
        file: Option<PathBuf>,
    },
    /// Print the description of the HTTP interface.
    #[command(hide = true)]
    Openapi,
    /// Print the page's tones.
    #[command(hide = true)]
    Tones,
}

/// The calculations with what each does.
fn calculations() -> String {
    envelope::calc::CALCS.iter().map(|c| format!("  {:<14} {}\n", c.name, c.about)).collect()
}

fn main() -> ExitCode {
    let cli = Cli::parse();
    commands::log(cli.log_json);
    let done = match cli.command {
        Command::Calc { name, file } => return commands::calc(&name, file.as_deref()),
        Command::Openapi => commands::openapi(),
        Command::Tones => {
            print!("{}", drawing::tokens());
            Ok(())
        }
        Command::Serve(l) => commands::serve(&cli.data, &cli.who, &l.bind, l.port, l.hosts),
        Command::Demo { listen: l, fresh, load_only } => commands::demo(&cli.data, fresh)
            .and_then(|()| if load_only { Ok(()) } else { commands::serve(&cli.data, &cli.who, &l.bind, l.port, l.hosts) }),
        Command::Report { job, out, note, insurer, trade, letter } => {
            let cut = match (note, insurer, &trade) {
                (true, ..) => Cut::Note,
                (_, true, _) => Cut::Insurer,
                (.., Some(_)) => Cut::Trade,
                _ => Cut::Full,
            };
            let paper = if letter { Paper::Letter } else { Paper::A4 };
            commands::report(&cli.data, &job, &out, &ReportWanted { cut, paper, trade })
        }
        Command::Export { job, out } => commands::export(&cli.data, &job, &out),
        Command::Import { file } => commands::import(&cli.data, &cli.who, &file),
        Command::Backup { file } => commands::backup(&cli.data, &file),
        Command::Restore { file } => commands::restore(&cli.data, &file),
        Command::Check { mend } => return commands::check(&cli.data, mend),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("trowel: {e:#}");
            ExitCode::FAILURE
        }
    }
}
