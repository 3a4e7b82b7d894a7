/** What each screen is for, in the words of somebody who stands beside it. */
export const HELP = {
  folios: {
    title: "My folios",
    about: [
      "Everything your courses ask of you, in the order of time. The red line is now; a bar ends when the work is due.",
      "Begin with “Read the brief”. What you have begun is opened by “Open the board”; what is handed in has its receipt here.",
    ],
  },
  brief: {
    title: "The brief",
    about: [
      "What is asked, and what the clock will do. Nothing runs before you press Begin.",
      "A rehearsal is the same with a small question paper; it counts for nothing.",
    ],
  },
  board: {
    title: "The board",
    about: [
      "Lay all your pages here: photograph them, choose files, drop or paste them. “Safe” means that the server has the page.",
      "Then say which questions are on which page: type their labels (2a-c, 4) and press Enter, or drag. On a phone, tap them.",
      "“Check and hand in” shows the document as it will be read. You can hand in again until the close; what is here then and was not handed in is handed in by itself.",
      "The key ? shows all keys, P or F2 the question paper.",
    ],
  },
  check: {
    title: "Check and hand in",
    about: [
      "The last look. Whatever is red is worth a second look, and nothing of it stops you.",
      "Handing in makes an edition, which is kept for good. The newest one counts.",
    ],
  },
  receipt: {
    title: "The receipt",
    about: [
      "The proof of what you handed in and when. Keep the PDF or the signed receipt if you want to be able to show it.",
      "Each long number is the fingerprint of a file: a file that is changed by one letter has another one.",
    ],
  },
  notices: {
    title: "Notices",
    about: ["What happened to your work, and what is coming. Each line leads to what it is about; whatever is mailed to you stands here too."],
  },
  compare: {
    title: "Two editions",
    about: ["The earlier edition beside the later one: which pages were added, removed, moved or taken again, and what was placed otherwise. Both are kept."],
  },
  account: { title: "Your account", about: ["Password, second factor, and what this device keeps of yours."] },
  reading: {
    title: "Reading",
    about: ["What a student handed in, question by question or page by page. The editions before the newest are kept too."],
  },
  marking: {
    title: "Marking",
    about: [
      "Everybody’s answer to one question, one under another. Type the points and press Enter; N writes a note, and you draw on the pages with pen, mouse or, where you choose it, a finger.",
      "Everything is saved as it happens, also over a lost network. Students see nothing of it before it is given back.",
      "The key ? shows all keys.",
    ],
  },
  givingBack: {
    title: "Giving back",
    about: [
      "Who gets their marks, what of them, and when. What was forgotten stands beside each name; you decide whether it matters.",
      "Students see the marks as they were when you gave them back. What you mark otherwise later is seen when you give it back anew.",
    ],
  },
  returned: {
    title: "Your marks",
    about: ["Each question with your own pages as they were marked. The marked PDF holds the same to keep. A question about a mark goes to whoever gave it."],
  },
  course: {
    title: "Course",
    about: [
      "Who is on the roster, what work there is, and how people join. Nothing of a draft is seen by students before you give it out.",
      "A roster is taken in from a CSV file, whatever the order of its columns. What it would change is shown first, and nobody is removed unless you say so.",
    ],
  },
  department: {
    title: "Department",
    about: [
      "The courses of your department, who teaches them, and who is in them. A course’s roster is where roles are given.",
      "The work of students is their instructors’ to read; an administrator sees none of it.",
    ],
  },
  settingUp: {
    title: "Setting up",
    about: [
      "Drop the question paper: its questions, parts and points are read from it and proposed as the question map.",
      "Beside the times stands what they mean for a student who begins first, for one who begins last, and for each kind of extra time.",
      "Students see it when you give it out. Who has begun never loses time or work by what you change afterwards.",
    ],
  },
  sitting: {
    title: "The sitting",
    about: [
      "One line a student, as the server sees it: a short stroke is a page that is safe, a dot is a hand-in, the red line is now.",
      "Choose students to give them time or a word, or give it to all who are running. Everything done here is in the record.",
    ],
  },
  join: {
    title: "Joining a course",
    about: ["Look whose course it is and as whom you join it. With another account, sign out first."],
  },
  staff: {
    title: "For staff",
    about: [
      "Who has begun, what has come, who has more time. What you change is written down, and students see at once what is theirs.",
    ],
  },
} as const;

export type HelpScreen = keyof typeof HELP;
