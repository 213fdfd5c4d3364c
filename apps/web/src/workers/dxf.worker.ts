/** Reads drawings and prepares what is drawn, away from the thread that answers to keys. */
import { DxfViewer } from 'dxf-viewer';

DxfViewer.SetupWorker();
