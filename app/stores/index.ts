import { useDevices } from './devices'
import { useDocument } from './document'
import { useMonitoring } from './monitoring'
import { useNotices } from './notices'
import { useOffers } from './offers'
import { usePreferences } from './preferences'
import { useRecording } from './recording'
import { useScreen } from './screen'
import { useSelection } from './selection'

/** All stores of this tab. A service that needs some of them names them by `Pick`. */
export const useStores = () => ({
  doc: useDocument(),
  selection: useSelection(),
  monitoring: useMonitoring(),
  screen: useScreen(),
  preferences: usePreferences(),
  devices: useDevices(),
  recording: useRecording(),
  offers: useOffers(),
  notices: useNotices(),
})

export type Stores = ReturnType<typeof useStores>
