/** Whether this browser has taken or left the tour; a browser that keeps nothing is offered it again. */
const KEY = 'zest-bell-tour';

export function tourIsOver(): boolean {
  try {
    return localStorage.getItem(KEY) !== null;
  } catch {
    return false;
  }
}

export function endTour(): void {
  try {
    localStorage.setItem(KEY, 'over');
  } catch {
    // Without storage the offer comes again next time.
  }
}
